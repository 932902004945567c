package org.holtra.core.memory;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class TimelineTest {

    private static Timeline<Downsample.State> quarters(Duration lateness) {
        return new Timeline<>(
                new Downsample(
                        new Intervals.Of(Duration.ofMinutes(15)),
                        null,
                        ZoneOffset.UTC,
                        Map.of("t", Choice.MEAN, "first", Choice.FIRST),
                        Choice.LAST),
                lateness,
                true);
    }

    private static Input t(int number, long received, long at, double value) {
        return Played.input(number, received, at, Map.of("t", value, "first", (double) number));
    }

    /** A message a minute for two hours, which come up to so many seconds late. */
    private static List<Input> minutes(long seed, int late) {
        Random random = new Random(seed);
        List<Input> inputs = new ArrayList<>();
        for (int i = 0; i < 120; i++) {
            inputs.add(t(i, i * 60L + (late == 0 ? 0 : random.nextInt(late)), i * 60L, random.nextInt(1_000) / 7.0));
        }
        return inputs;
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5})
    void whatIsShuffledWithinTheLatenessGivesTheSame(long seed) {
        Duration lateness = Duration.ofMinutes(5);
        List<Input> onTime = minutes(seed, 0);
        List<Input> shuffled = new ArrayList<>();
        Random random = new Random(seed);
        for (Input one : onTime) {
            shuffled.add(
                    new Input(one.message(), one.received().plusSeconds(random.nextInt(300)), one.at(), one.fields()));
        }

        List<Step.Made> inOrder =
                new Played<>(quarters(lateness)).asItComes(onTime).until(9_000).made();
        List<Step.Made> late = new Played<>(quarters(lateness))
                .asItComes(shuffled)
                .until(9_000)
                .made();

        assertThat(inOrder).hasSize(8);
        assertThat(late)
                .extracting(Step.Made::at)
                .isEqualTo(inOrder.stream().map(Step.Made::at).toList());
        assertThat(late)
                .extracting(Step.Made::data)
                .isEqualTo(inOrder.stream().map(Step.Made::data).toList());
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5})
    void itComesToTheSameWhetherItIsDoneAtOnceOrAfterAStop(long seed) {
        List<Input> inputs = minutes(seed, 600);

        Played<Downsample.State> live =
                new Played<>(quarters(Duration.ofMinutes(2))).asItComes(inputs).until(259_200);
        Played<Downsample.State> afterAStop = new Played<>(quarters(Duration.ofMinutes(2))).atOnce(inputs);

        assertThat(afterAStop.made()).isEqualTo(live.made());
        assertThat(afterAStop.fates()).isEqualTo(live.fates());
        assertThat(afterAStop.state()).isEqualTo(live.state());
        assertThat(live.fates()).hasSize(120);
    }

    @Test
    void anIntervalClosesAtItsEndAndTheLatenessThoughNothingComes() {
        Played<Downsample.State> played =
                new Played<>(quarters(Duration.ofMinutes(1))).asItComes(List.of(t(1, 10, 0, 4), t(2, 100, 90, 6)));

        assertThat(played.until(959).made()).isEmpty();
        assertThat(played.until(960).made("t")).containsExactly(5.0);
        assertThat(played.made().getFirst().name().stamp()).isEqualTo(Played.T0.plusSeconds(900));
    }

    @Test
    void whatComesLaterStillIsPassedOnMarkedLateOrEndsHere() {
        List<Input> inputs = List.of(t(1, 10, 0, 4), t(2, 2_000, 500, 6));
        Timeline<Downsample.State> passing = quarters(Duration.ofMinutes(1));
        Timeline<Downsample.State> ending = new Timeline<>(passing.operation(), passing.lateness(), false);

        assertThat(new Played<>(passing).asItComes(inputs).until(3_000).fates())
                .last()
                .isEqualTo(new Step.Fate.Passed(inputs.getLast().message(), true));
        assertThat(new Played<>(ending).asItComes(inputs).until(3_000).fates().getLast())
                .isInstanceOf(Step.Fate.HeldBack.class);
    }

    @Test
    void aBacklogAfterAnOutageGivesWhatItWouldHaveGivenInTime() {
        List<Input> onTime = minutes(9, 0);
        List<Input> backlog = new ArrayList<>();
        for (int i = 0; i < onTime.size(); i++) {
            Input one = onTime.get(i);
            // Silent from the end of the first quarter on; after two hours all of it comes within seconds.
            backlog.add(
                    i < 15
                            ? one
                            : new Input(one.message(), Played.T0.plusSeconds(7_300 + i / 20), one.at(), one.fields()));
        }

        assertThat(new Played<>(quarters(Duration.ofMinutes(1)))
                        .asItComes(backlog)
                        .until(9_000)
                        .made("t"))
                .isEqualTo(new Played<>(quarters(Duration.ofMinutes(1)))
                        .asItComes(onTime)
                        .until(9_000)
                        .made("t"));
    }

    @Test
    void whatIsRememberedOfAKeyDoesNotGrowWithItsMessages() {
        Played<Downsample.State> played = new Played<>(quarters(Duration.ZERO));
        List<Input> inputs = new ArrayList<>();
        for (int i = 0; i < 800; i++) {
            inputs.add(t(i, i, i, i));
        }

        assertThat(played.asItComes(inputs).state().waiting()).isEmpty();
        assertThat(played.state().own().values()).hasSize(2);
        assertThat(played.state().own().messages()).isEqualTo(800);
    }
}
