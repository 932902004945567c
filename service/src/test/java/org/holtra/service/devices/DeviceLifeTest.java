package org.holtra.service.devices;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.reflect.Proxy;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.holtra.core.message.MessageIds;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.springframework.transaction.support.TransactionOperations;
import tools.jackson.databind.json.JsonMapper;

class DeviceLifeTest {

    private static final Instant START = Instant.parse("2026-04-12T03:20:00Z");

    private final AtomicReference<Instant> now = new AtomicReference<>(START);
    private final List<String> happened = new ArrayList<>();
    private final MessageIds ids = new MessageIds(now::get, new Random(1));

    private DeviceLife.Heard heard(Long sequence, Instant eventTime, Map<String, Object> values) {
        return new DeviceLife.Heard(ids.next(), "in", sequence, eventTime, values, Map.of(), Map.of(), true);
    }

    private DeviceLife living(int... seconds) {
        DeviceLife life = DeviceLife.UNHEARD;
        for (int second : seconds) {
            now.set(START.plusSeconds(second));
            life = life.after(heard(null, now.get(), Map.of()));
        }
        return life;
    }

    @ParameterizedTest
    @CsvSource({
        "'1 2 3', 0, 0",
        "'1 2 6', 3, 0",
        "'5 6 1 2', 0, 1",
        "'9 1', 0, 1",
        "'10 12 11 13', 0, 0",
        "'10 10 11', 0, 0",
        "'3 70000 70001', 0, 1",
        "'65534 65535 0 1', 0, 1"
    })
    void countsMissingNumbersAndRestarts(String numbers, long missing, long restarts) {
        DeviceLife life = DeviceLife.UNHEARD;
        for (String number : numbers.split(" ")) {
            life = life.after(heard(Long.valueOf(number), START, Map.of()));
        }

        assertThat(life.sequences().get("in").missing()).isEqualTo(missing);
        assertThat(life.sequences().get("in").restarts()).isEqualTo(restarts);
    }

    @Test
    void keepsTheValueOfTheLatestEventTimeWhateverComesLast() {
        DeviceLife life = DeviceLife.UNHEARD
                .after(heard(null, START.plusSeconds(60), Map.of("t", 2.0)))
                .after(heard(null, START, Map.of("t", 1.0, "h", 50.0)));

        assertThat(life.values().get("t").value()).isEqualTo(2.0);
        assertThat(life.values().get("h").value()).isEqualTo(50.0);
        assertThat(life.messages()).isEqualTo(2);
    }

    @Test
    void learnsItsOwnSilenceFromItsRhythm() {
        assertThat(living(0, 600, 1200).ownSilence()).isEmpty();
        assertThat(living(0, 600, 1200, 1800, 2400).ownSilence()).contains(Duration.ofMinutes(30));
        assertThat(living(0, 1, 2, 3, 4).ownSilence()).contains(Duration.ofMinutes(1));
        // One long pause does not make it a slow device.
        assertThat(living(0, 600, 1200, 90_000, 90_600).ownSilence()).contains(Duration.ofMinutes(30));
    }

    @Test
    void fallsSilentAfterItsTimeAndLivesAgainWhenItIsHeard() {
        DeviceLives lives = lives(new Written("a"), false);
        lives.heard("a", heard(null, START, Map.of()));
        lives.writeAll();

        now.set(START.plusSeconds(90));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isFalse();

        now.set(START.plusSeconds(121));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isTrue();

        lives.heard("a", heard(null, now.get(), Map.of()));
        assertThat(lives.of("a").silent()).isFalse();
        lives.writeAll();
        assertThat(happened).containsExactly("a silent", "a back");
    }

    @Test
    void timeInWhichNobodyListenedIsNoSilence() {
        DeviceLife before = DeviceLife.UNHEARD.after(heard(null, START, Map.of()));
        now.set(START.plus(Duration.ofHours(5)));
        Written written = new Written("a");
        written.lives.put("a", JsonMapper.shared().writeValueAsString(before));
        DeviceLives lives = lives(written, false);
        lives.load();

        now.set(now.get().plusSeconds(60));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isFalse();

        now.set(now.get().plusSeconds(70));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isTrue();
    }

    @Test
    void areWrittenAPartAtATimeTheLongestUnwrittenFirst() {
        Written written =
                new Written(IntStream.range(0, 120).mapToObj(n -> "device-" + n).toArray(String[]::new));
        DeviceLives lives = lives(written, false);
        List<String> keys = IntStream.range(0, 120).mapToObj(n -> "device-" + n).toList();
        keys.forEach(key -> lives.heard(key, heard(null, START, Map.of())));

        lives.writeSome();
        lives.heard("device-0", heard(null, START, Map.of()));
        lives.heard("device-119", heard(null, START, Map.of()));
        lives.writeSome();
        lives.writeAll();
        lives.writeAll();

        assertThat(written.writes)
                .containsExactly(
                        Set.copyOf(keys.subList(0, 50)),
                        Set.copyOf(keys.subList(50, 100)),
                        Stream.concat(keys.subList(100, 120).stream(), Stream.of("device-0"))
                                .collect(Collectors.toSet()));
    }

    @Test
    void twoNodesThatHearTheSameDeviceTogetherSayWhatOneWouldSay() {
        Written written = new Written("a");
        DeviceLives one = lives(written, true);
        DeviceLives two = lives(written, true);
        DeviceLife alone = DeviceLife.UNHEARD;
        for (int number = 1; number <= 40; number++) {
            now.set(START.plusSeconds(600L * number));
            DeviceLife.Heard heard = heard((long) number, now.get(), Map.of("t", (double) number));
            (number % 2 == 0 ? one : two).heard("a", heard);
            alone = alone.after(heard);
            if (number % 10 == 0) {
                one.writeAll();
                two.writeAll();
            }
        }
        one.hearOfOthers();

        assertThat(one.of("a")).isEqualTo(alone);
        assertThat(two.of("a")).isEqualTo(alone);
    }

    @Test
    void aNodeCallsNoDeviceSilentThatAnotherHears() {
        Written written = new Written("a");
        DeviceLives one = lives(written, true);
        DeviceLives two = lives(written, true);
        one.heard("a", heard(null, START, Map.of()));
        one.writeAll();
        now.set(START.plusSeconds(600));
        two.heard("a", heard(null, now.get(), Map.of()));
        two.writeAll();

        one.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));

        assertThat(one.of("a").silent()).isFalse();
        assertThat(one.of("a").messages()).isEqualTo(2);
    }

    @Test
    void aClockThatIsAheadGivesNoValueThatStays() {
        DeviceLife life =
                DeviceLife.UNHEARD.after(heard(null, Instant.parse("2100-01-01T00:00:00Z"), Map.of("t", 1.0)));
        now.set(START.plusSeconds(60));

        assertThat(life.after(heard(null, now.get(), Map.of("t", 2.0)))
                        .values()
                        .get("t")
                        .value())
                .isEqualTo(2.0);
    }

    private DeviceLives lives(Written written, boolean hasCompany) {
        return new DeviceLives(
                written.mapper(),
                TransactionOperations.withoutTransaction(),
                () -> hasCompany,
                now::get,
                event -> happened.add(event.device() + " " + event.what().word()));
    }

    /** What stands in the database for the statements, in place of it. */
    private static final class Written {
        private final Set<String> devices;
        private final Map<String, String> lives = new HashMap<>();
        private final List<Set<String>> writes = new ArrayList<>();

        Written(String... devices) {
            this.devices = Set.of(devices);
        }

        private List<DeviceMapper.LifeRow> rows(Collection<String> keys) {
            return keys.stream()
                    .filter(devices::contains)
                    .map(key -> new DeviceMapper.LifeRow(key, lives.get(key)))
                    .toList();
        }

        DeviceMapper mapper() {
            return (DeviceMapper) Proxy.newProxyInstance(
                    DeviceMapper.class.getClassLoader(),
                    new Class<?>[] {DeviceMapper.class},
                    (proxy, method, arguments) -> switch (method.getName()) {
                        case "lives", "livesSince" -> rows(lives.keySet());
                        case "livesForUpdate" -> rows(List.of((String[]) arguments[0]));
                        case "writeLives" -> {
                            String[] keys = (String[]) arguments[0];
                            writes.add(Set.of(keys));
                            for (int i = 0; i < keys.length; i++) {
                                lives.put(keys[i], ((String[]) arguments[1])[i]);
                            }
                            yield null;
                        }
                        default -> throw new AssertionError(method.getName());
                    });
        }
    }
}
