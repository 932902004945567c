package org.holtra.core.lookout;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import java.util.stream.IntStream;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.junit.jupiter.api.Test;

class WatchTest {

    private static final Instant START = Instant.parse("2031-04-03T01:00:00Z");
    private static final Duration HOUR = Duration.ofHours(1);

    private static Input at(int minutes, Double value) {
        Instant time = START.plus(Duration.ofMinutes(minutes));
        return new Input(new UUID(0, minutes), time, time, value == null ? Map.of() : Map.of(Watch.VALUE, value));
    }

    /** What is raised and cleared, as `raised 20 -0.5`: the minute and the extreme. */
    private static List<String> alarms(Watch watch, Duration lateness, List<Input> inputs, int until) {
        Timeline<Watch.State> timeline = new Timeline<>(watch, lateness, false);
        Timeline.State<Watch.State> state = timeline.empty();
        List<Step.Made> made = new ArrayList<>();
        for (Input input : inputs) {
            Step<Timeline.State<Watch.State>> step = timeline.advance(state, List.of(input), input.received());
            state = step.state();
            made.addAll(step.made());
        }
        made.addAll(timeline.advance(state, List.of(), START.plus(Duration.ofMinutes(until)))
                .made());
        return made.stream()
                .map(one -> one.data().get(Watch.STATE) + " "
                        + Duration.between(START, one.at()).toMinutes()
                        + (one.data().containsKey("extreme") ? " " + one.data().get("extreme") : ""))
                .toList();
    }

    private static List<Input> each(int minutes, double... values) {
        List<Input> inputs = new ArrayList<>();
        for (int i = 0; i < values.length; i++) {
            inputs.add(at(i * minutes, values[i]));
        }
        return inputs;
    }

    private static List<String> alarms(Sign sign, Duration hold, Duration quiet, List<Input> inputs) {
        return alarms(new Watch(sign, hold, quiet), Duration.ZERO, inputs, 10_000);
    }

    @Test
    void aFrostIsOneAlarmHoweverTheValueWavers() {
        assertThat(alarms(
                        new Level(false, 0, 1.5),
                        Duration.ZERO,
                        Duration.ZERO,
                        each(10, 2, 0.5, -0.1, 0.4, -1.2, 0.9, -0.3, 1.5, 2)))
                .containsExactly("raised 20 -0.1", "cleared 70 -1.2");
    }

    @Test
    void itIsRaisedOnlyOnceTheSignHasHeld() {
        assertThat(alarms(
                        new Level(true, 30, 28),
                        Duration.ofMinutes(20),
                        Duration.ZERO,
                        each(10, 31, 29, 31, 33, 32, 27)))
                .containsExactly("raised 40 33.0", "cleared 50 33.0");
    }

    @Test
    void inItsQuietTimeNoneIsRaised() {
        assertThat(alarms(new Level(true, 30, 30), Duration.ZERO, HOUR, each(20, 31, 29, 31, 31, 31, 29)))
                .containsExactly("raised 0 31.0", "cleared 20 31.0", "raised 80 31.0", "cleared 100 31.0");
    }

    @Test
    void aValueThatMovesFastIsToldByTheLowestWithinTheTime() {
        assertThat(alarms(
                        new Move(true, 5, HOUR),
                        Duration.ZERO,
                        Duration.ZERO,
                        each(30, 10, 12, 14, 16.5, 17.5, 18, 18)))
                .isEmpty();
        assertThat(alarms(new Move(true, 5, HOUR), Duration.ZERO, Duration.ZERO, each(30, 10, 12, 15, 16, 16)))
                .containsExactly("raised 60 5.0", "cleared 90 5.0");
        assertThat(alarms(new Move(false, 5, HOUR), Duration.ZERO, Duration.ZERO, each(30, 10, 12, 6, 6, 6)))
                .containsExactly("raised 60 6.0", "cleared 120 6.0");
    }

    @Test
    void aValueThatStandsStillIsStuckUntilItMoves() {
        assertThat(alarms(new Stuck(0.1, HOUR), Duration.ZERO, Duration.ZERO, each(30, 7, 7.05, 7.1, 7, 7.3, 7.3)))
                .containsExactly("raised 60 7.1", "cleared 120 7.1");
    }

    @Test
    void silenceIsRaisedThoughNothingComesAndClearedByTheNextMessage() {
        assertThat(alarms(
                        new Silence(HOUR),
                        Duration.ZERO,
                        Duration.ZERO,
                        List.of(at(0, null), at(30, null), at(200, null))))
                .containsExactly("raised 90", "cleared 200", "raised 260");
    }

    @Test
    void silenceByRhythmNeedsToKnowTheRhythm() {
        assertThat(alarms(new Silence(null), Duration.ZERO, Duration.ZERO, List.of(at(0, null), at(10, null))))
                .isEmpty();
        assertThat(alarms(
                        new Silence(null),
                        Duration.ZERO,
                        Duration.ZERO,
                        List.of(at(0, null), at(10, null), at(20, null), at(60, null), at(70, null), at(80, null))))
                .containsExactly("raised 110");
    }

    @Test
    void whoSaysSeveralThingsAtOnceAtItsStartIsNotSilentUntilItsNextTurn() {
        List<Input> inputs = IntStream.of(0, 1, 2, 4, 60, 120, 180, 240, 300)
                .mapToObj(minute -> at(minute, null))
                .toList();

        assertThat(alarms(new Silence(null), Duration.ZERO, Duration.ZERO, inputs))
                .containsExactly("raised 480");
    }

    @Test
    void timeInWhichNobodyListenedIsNoSilence() {
        Watch watch = new Watch(new Silence(HOUR), Duration.ZERO, Duration.ZERO);
        Watch.State heard = watch.take(watch.empty(), at(0, null)).state();
        assertThat(watch.due(heard)).contains(START.plus(HOUR));

        Watch.State excused = watch.excused(heard, START.plus(HOUR.multipliedBy(5)));

        assertThat(watch.due(excused)).contains(START.plus(HOUR.multipliedBy(6)));
    }

    @Test
    void whatComesInAnyOrderWithinTheLatenessRaisesTheSame() {
        Watch watch = new Watch(new Level(false, 0, 1), Duration.ofMinutes(10), Duration.ofMinutes(30));
        Random random = new Random(7);
        List<Input> inTime = new ArrayList<>();
        for (int i = 0; i < 200; i++) {
            inTime.add(at(5 * i, Math.round(20 * Math.sin(i / 9.0) + 10 * random.nextDouble()) / 10.0));
        }
        List<String> expected = alarms(watch, HOUR, inTime, 10_000);
        assertThat(expected).hasSizeGreaterThan(4);
        for (int round = 0; round < 20; round++) {
            List<Input> late = new ArrayList<>(inTime.stream()
                    .map(one -> new Input(
                            one.message(),
                            one.received().plus(Duration.ofSeconds(random.nextInt(3_600))),
                            one.at(),
                            one.fields()))
                    .toList());
            Collections.shuffle(late, random);
            late.sort(Comparator.comparing(Input::received));
            assertThat(alarms(watch, HOUR, late, 10_000)).isEqualTo(expected);
        }
    }
}
