package org.holtra.service.devices;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.reflect.Proxy;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.holtra.core.message.MessageIds;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.json.JsonMapper;

class DeviceLifeTest {

    private static final Instant START = Instant.parse("2026-04-12T03:20:00Z");

    private final AtomicReference<Instant> now = new AtomicReference<>(START);
    private final MessageIds ids = new MessageIds(now::get, new Random(1));

    private DeviceLife.Heard heard(Long sequence, Instant eventTime, Map<String, Object> values) {
        return new DeviceLife.Heard(ids.next(), "in", sequence, eventTime, values, Map.of(), Map.of());
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
        DeviceLives lives = new DeviceLives(null, now::get);
        lives.heard("a", heard(null, START, Map.of()));

        now.set(START.plusSeconds(90));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isFalse();

        now.set(START.plusSeconds(121));
        lives.lookForSilence((key, life) -> Optional.of(Duration.ofMinutes(2)));
        assertThat(lives.of("a").silent()).isTrue();

        lives.heard("a", heard(null, now.get(), Map.of()));
        assertThat(lives.of("a").silent()).isFalse();
    }

    @Test
    void timeInWhichNobodyListenedIsNoSilence() {
        DeviceLife before = DeviceLife.UNHEARD.after(heard(null, START, Map.of()));
        now.set(START.plus(Duration.ofHours(5)));
        DeviceLives lives = new DeviceLives(stored(before), now::get);
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
        List<List<String>> written = new ArrayList<>();
        DeviceMapper mapper = (DeviceMapper) Proxy.newProxyInstance(
                DeviceMapper.class.getClassLoader(),
                new Class<?>[] {DeviceMapper.class},
                (proxy, method, arguments) -> {
                    assertThat(method.getName()).isEqualTo("writeLives");
                    written.add(List.of((String[]) arguments[0]));
                    return null;
                });
        DeviceLives lives = new DeviceLives(mapper, now::get);
        List<String> keys = IntStream.range(0, 120).mapToObj(n -> "device-" + n).toList();
        keys.forEach(key -> lives.heard(key, heard(null, START, Map.of())));

        lives.writeSome();
        lives.heard("device-0", heard(null, START, Map.of()));
        lives.heard("device-119", heard(null, START, Map.of()));
        lives.writeSome();
        lives.writeAll();
        lives.writeAll();

        assertThat(written)
                .containsExactly(
                        keys.subList(0, 50),
                        keys.subList(50, 100),
                        Stream.concat(keys.subList(100, 120).stream(), Stream.of("device-0"))
                                .toList());
    }

    /** The statements, of which only one is asked for here. */
    private static DeviceMapper stored(DeviceLife life) {
        String json = JsonMapper.shared().writeValueAsString(life);
        return (DeviceMapper) Proxy.newProxyInstance(
                DeviceMapper.class.getClassLoader(),
                new Class<?>[] {DeviceMapper.class},
                (proxy, method, arguments) -> {
                    assertThat(method.getName()).isEqualTo("lives");
                    return List.of(new DeviceMapper.LifeRow("a", json));
                });
    }
}
