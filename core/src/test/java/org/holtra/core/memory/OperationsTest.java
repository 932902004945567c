package org.holtra.core.memory;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;
import static org.holtra.core.memory.Played.input;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class OperationsTest {

    private static <S> Played<S> play(Operation<S> operation) {
        return new Played<>(new Timeline<>(operation, Duration.ZERO, true));
    }

    private static String heldBack(Step.Fate fate) {
        return ((Step.Fate.HeldBack) fate).reason();
    }

    private static boolean passed(Step.Fate fate) {
        return fate instanceof Step.Fate.Passed;
    }

    // ------------------------------------------------------------------ downsample

    @Test
    void eachChoiceStandsForTheValuesOfAnInterval() {
        Map<String, Choice> fields = Map.of(
                "first",
                Choice.FIRST,
                "mean",
                Choice.MEAN,
                "min",
                Choice.MIN,
                "max",
                Choice.MAX,
                "sum",
                Choice.SUM,
                "count",
                Choice.COUNT);
        Downsample downsample =
                new Downsample(new Intervals.Of(Duration.ofMinutes(15)), null, ZoneOffset.UTC, fields, Choice.LAST);
        List<Input> inputs = new ArrayList<>();
        double[] values = {3, 1, 2};
        for (int i = 0; i < values.length; i++) {
            double value = values[i];
            inputs.add(input(
                    i,
                    i * 60,
                    i * 60,
                    Map.of(
                            "first", value, "mean", value, "min", value, "max", value, "sum", value, "count", "x",
                            "state", "s" + i)));
        }

        Map<String, Object> data =
                play(downsample).asItComes(inputs).until(900).made().getFirst().data();

        assertThat(data)
                .isEqualTo(Map.of(
                        "first", 3.0, "mean", 2.0, "min", 1.0, "max", 3.0, "sum", 6.0, "count", 3L, "state", "s2"));
    }

    @Test
    void anIntervalMayBeginWithItsFirstMessage() {
        Downsample downsample =
                new Downsample(null, Duration.ofMinutes(10), ZoneOffset.UTC, Map.of("t", Choice.COUNT), null);

        List<Step.Made> made = play(downsample)
                .asItComes(List.of(
                        input(1, 100, 100, Map.of("t", 1.0)),
                        input(2, 699, 699, Map.of("t", 1.0)),
                        input(3, 700, 700, Map.of("t", 1.0))))
                .until(1_300)
                .made();

        assertThat(made).extracting(one -> one.data().get("t")).containsExactly(2L, 1L);
        assertThat(made.getFirst().at()).isEqualTo(Played.T0.plusSeconds(100));
    }

    // ------------------------------------------------------------------ changed

    @Test
    void onlyWhatMovedFarEnoughGoesOn() {
        Changed changed =
                new Changed(Map.of("t", new Changed.Band(0.5, false), "h", new Changed.Band(10, true)), Map.of(), null);

        List<Step.Fate> fates = play(changed)
                .asItComes(List.of(
                        input(1, 1, 1, Map.of("t", 5.0, "h", 50.0)),
                        input(2, 2, 2, Map.of("t", 5.4, "h", 54.0)),
                        input(3, 3, 3, Map.of("t", 5.6, "h", 50.0)),
                        input(4, 4, 4, Map.of("t", 5.6, "h", 56.0))))
                .fates();

        assertThat(fates).extracting(OperationsTest::passed).containsExactly(true, false, true, true);
        assertThat(heldBack(fates.get(1)))
                .contains("t moved by 0.4, not by more than 0.5")
                .contains("h moved by 4, not by more than 10 %");
    }

    @Test
    void crossingAValueAndTheLongestSilenceGoOnToo() {
        Changed changed = new Changed(Map.of("t", new Changed.Band(100, false)), Map.of("t", 0.0), Duration.ofHours(1));

        List<Step.Fate> fates = play(changed)
                .asItComes(List.of(
                        input(1, 0, 0, Map.of("t", 1.0)),
                        input(2, 60, 60, Map.of("t", 0.2)),
                        input(3, 120, 120, Map.of("t", -0.2)),
                        input(4, 180, 180, Map.of("t", -0.3)),
                        input(5, 3_720, 3_720, Map.of("t", -0.3))))
                .fates();

        assertThat(fates).extracting(OperationsTest::passed).containsExactly(true, false, true, false, true);
    }

    // ------------------------------------------------------------------ join

    private static final Set<String> ALL = Set.of("air", "humidity", "wind");

    private static Join join(Join.Incomplete incomplete) {
        return new Join(ALL, null, Duration.ofSeconds(30), incomplete, Join.Differing.NEXT);
    }

    @Test
    void partsBecomeOneOnceAllAreThere() {
        Played<Join.State> played = play(join(Join.Incomplete.GO))
                .asItComes(List.of(
                        input(1, 0, 0, Map.of("air", 4.0)),
                        input(2, 1, 1, Map.of("wind", 3.0)),
                        input(3, 2, 2, Map.of("humidity", 80.0))));

        assertThat(played.made()).hasSize(1);
        assertThat(played.made().getFirst().data()).isEqualTo(Map.of("air", 4.0, "wind", 3.0, "humidity", 80.0));
        assertThat(played.fates())
                .allSatisfy(fate -> assertThat(((Step.Fate.Merged) fate).into())
                        .isEqualTo(played.made().getFirst().name()));
    }

    @Test
    void whatIsMissingWhenTheTimeIsOverIsSaidAndPolicyDecides() {
        List<Input> parts = List.of(input(1, 0, 0, Map.of("air", 4.0)), input(2, 1, 1, Map.of("wind", 3.0)));

        Step.Made goes =
                play(join(Join.Incomplete.GO)).asItComes(parts).until(30).made().getFirst();
        assertThat(goes.note()).isEqualTo("joined from 2 messages; missing: humidity");
        assertThat(goes.missing()).isEmpty();
        Step.Made dies = play(join(Join.Incomplete.DIE))
                .asItComes(parts)
                .until(30)
                .made()
                .getFirst();
        assertThat(dies.missing()).containsExactly("humidity");

        Played<Join.State> waits =
                play(join(Join.Incomplete.WAIT)).asItComes(parts).until(10_000);
        assertThat(waits.made()).isEmpty();
        assertThat(waits.asItComes(List.of(input(3, 10_001, 10_001, Map.of("humidity", 1.0))))
                        .made())
                .hasSize(1);
    }

    @Test
    void whatWaitsForPartsThatNeverComeEndsAfterThirtyDays() {
        Played<Join.State> waits = play(join(Join.Incomplete.WAIT))
                .asItComes(List.of(input(1, 1, 1, Map.of("air", 1.0))))
                .until(Duration.ofDays(29).toSeconds());
        assertThat(waits.made()).isEmpty();

        waits.until(Duration.ofDays(31).toSeconds());

        assertThat(waits.made()).hasSize(1);
        assertThat(waits.made().getFirst().missing()).isNotEmpty();
    }

    @Test
    void twoValuesOfOneFieldNeverBecomeOneInSilence() {
        Played<Join.State> played = play(join(Join.Incomplete.GO))
                .asItComes(List.of(
                        input(1, 0, 0, Map.of("air", 4.0)),
                        input(2, 1, 1, Map.of("air", 4, "at", "03:00")),
                        input(3, 2, 2, Map.of("air", 5.0, "at", "03:01")),
                        input(4, 3, 3, Map.of("wind", 1.0, "at", "03:02"))))
                .until(100);

        assertThat(played.made("air")).containsExactly(4, 5.0);
        assertThat(played.made("wind")).containsExactly(null, 1.0);
        assertThat(played.made().getFirst().note())
                .isEqualTo(
                        "joined from 2 messages; missing: humidity, wind; closed since air came again with another value");
        assertThat(played.made().getLast().note()).endsWith("; at came with several values, and the latest is kept");
        assertThat(played.fates()).hasSize(4);
    }

    @Test
    void soManyPartsMayMakeOneToo() {
        Join three = new Join(Set.of(), 3, Duration.ofMinutes(1), Join.Incomplete.GO, Join.Differing.LIST);
        List<Input> parts = new ArrayList<>();
        for (int i = 0; i < 7; i++) {
            parts.add(input(i, i, i, Map.of("n", (double) i)));
        }

        Played<Join.State> played = play(three).asItComes(parts).until(100);

        assertThat(played.made("n")).containsExactly(List.of(0.0, 1.0, 2.0), List.of(3.0, 4.0, 5.0), 6.0);
        assertThat(played.made().getFirst().note())
                .isEqualTo("joined from 3 messages; n came with several values, and all are kept");
        assertThat(played.made().getLast().note()).isEqualTo("joined from 1 message; only 1 of 3 came");
        assertThat(played.made()).extracting(one -> one.name().text()).doesNotHaveDuplicates();
    }

    // ------------------------------------------------------------------ increase

    private static Input count(int number, Instant at, double value) {
        return new Input(new UUID(0x7000, number), at, at, Map.of("total", value));
    }

    private static Increase increase(Intervals intervals, String zone, Duration gap, boolean spreads) {
        return new Increase(Map.of("total", "rain"), intervals, ZoneId.of(zone), 1_000.0, gap, spreads);
    }

    private static Input count(int number, long minutes, double value) {
        return count(number, Played.T0.plusSeconds(60 * minutes), value);
    }

    @Test
    void aRestartIsNoNegativeRiseAndRollingOverIsOne() {
        Played<Increase.State> played = play(increase(null, "UTC", null, false))
                .asItComes(List.of(
                        count(1, 0, 10), count(2, 10, 14), count(3, 20, 3), count(4, 30, 990), count(5, 40, 5)));

        assertThat(heldBack(played.fates().getFirst())).startsWith("the first reading of its counter");
        assertThat(played.made("rain")).containsExactly(4.0, 3.0, 987.0, 15.0);
        assertThat(played.made().get(1).note()).startsWith("total started anew");
        assertThat(played.made().get(3).note()).startsWith("total rolled over");
    }

    @Test
    void risesOfAnHourAreSummedAndAGapIsSaidAndNotTakenForZero() {
        Played<Increase.State> played = play(increase(new Intervals.Hours(), "UTC", Duration.ofMinutes(30), false))
                .asItComes(
                        List.of(count(1, 0, 0), count(2, 20, 1), count(3, 40, 2), count(4, 60, 4), count(5, 250, 10)))
                .until(6 * 3_600);

        assertThat(played.made("rain")).containsExactly(4.0, 6.0);
        assertThat(played.made())
                .extracting(Step.Made::at)
                .containsExactly(Played.T0, Played.T0.plusSeconds(4 * 3_600));
        assertThat(played.made().getFirst().note()).isNull();
        assertThat(played.made().getLast().note()).startsWith("no reading of total from ");
    }

    @Test
    void byChoiceTheRiseOfAGapIsSpreadOverIt() {
        Played<Increase.State> played = play(increase(new Intervals.Hours(), "UTC", Duration.ofMinutes(90), true))
                .asItComes(List.of(count(1, 0, 0), count(2, 60, 4), count(3, 240, 10)))
                .until(6 * 3_600);

        assertThat(played.made("rain")).containsExactly(4.0, 2.0, 2.0, 2.0);
        assertThat(played.made().get(1).note()).endsWith("(spread over that time)");
    }

    @Test
    void aDayHasTwentyThreeOrTwentyFiveHoursWhereClocksAreSet() {
        List<Input> hours = new ArrayList<>();
        Instant begin = Instant.parse("2026-03-28T23:00:00Z"); // midnight before the clocks of Berlin go forward
        for (int i = 0; i <= 48; i++) {
            hours.add(count(i, begin.plusSeconds(3_600L * i), i));
        }

        List<Object> spring = play(increase(new Intervals.Days(), "Europe/Berlin", null, false))
                .atOnce(hours)
                .made("rain");

        assertThat(spring.getFirst()).isEqualTo(23.0);
        assertThat((Double) spring.get(1)).isCloseTo(24.0, within(1e-9));
    }

    @Test
    void monthsFollowTheCalendar() {
        Intervals.Interval february = new Intervals.Months().of(Instant.parse("2028-02-10T12:00:00Z"), ZoneOffset.UTC);

        assertThat(Duration.between(february.from(), february.to())).isEqualTo(Duration.ofDays(29));
    }
}
