package org.holtra.core.memory;

import static org.assertj.core.api.Assertions.assertThat;
import static org.holtra.core.memory.Played.input;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import tools.jackson.databind.json.JsonMapper;

/** What is stored of operations, and beside them, must be read by later versions: these texts are what earlier ones wrote. */
class OperationFormsTest {

    private static final Duration QUARTER = Duration.ofMinutes(15);

    static Stream<Object[]> stored() {
        Map<String, Choice> choices = new LinkedHashMap<>();
        choices.put("t", Choice.MEAN);
        choices.put("h", Choice.MAX);
        return Stream.of(
                new Object[] {
                    new Downsample(
                            new Intervals.Of(QUARTER), QUARTER, ZoneId.of("Europe/Vienna"), choices, Choice.LAST),
                    "{'fields':{'h':'max','t':'mean'},'intervals':'PT15M','length':'PT15M','operation':'downsample','rest':'last',"
                            + "'version':1,'zone':'Europe/Vienna'}"
                },
                new Object[] {
                    new Downsample(null, QUARTER, ZoneOffset.UTC, Map.of(), null),
                    "{'fields':{},'length':'PT15M','operation':'downsample','version':1,'zone':'Z'}"
                },
                new Object[] {
                    new Changed(
                            Map.of("t", new Changed.Band(0.5, false), "p", new Changed.Band(5, true)),
                            Map.of("t", 2.0),
                            Duration.ofHours(1)),
                    "{'bands':{'p':'5.0%','t':'0.5'},'crossings':{'t':2.0},'longest':'PT1H','operation':'changed','version':1}"
                },
                new Object[] {
                    new Join(Set.of("wind", "air"), 3, QUARTER, Join.Incomplete.DIE, Join.Differing.LIST),
                    "{'count':3,'differing':'list','fields':['air','wind'],'incomplete':'die','operation':'join',"
                            + "'version':1,'within':'PT15M'}"
                },
                new Object[] {
                    new Increase(
                            Map.of("rainTotal", "rain"),
                            new Intervals.Months(),
                            ZoneOffset.UTC,
                            65_536.0,
                            Duration.ofHours(2),
                            true),
                    "{'counters':{'rainTotal':'rain'},'gapAfter':'PT2H','intervals':'month','operation':'increase','rollsAt':65536.0,"
                            + "'spreads':true,'version':1,'zone':'Z'}"
                });
    }

    @ParameterizedTest
    @MethodSource("stored")
    void operationsAreStoredInAFormThatStaysAndAreReadFromIt(Operation<?> operation, String form) {
        assertThat(OperationForms.write(operation)).isEqualTo(form.replace('\'', '"'));
        assertThat(OperationForms.read(form.replace('\'', '"'))).contains(operation);
    }

    @Test
    void whatAnotherVersionWroteIsNoOperationOfThisOne() {
        assertThat(OperationForms.read("{\"operation\":\"downsample\",\"version\":2}"))
                .isEmpty();
        assertThat(OperationForms.read("{\"operation\":\"fold\",\"version\":1}"))
                .isEmpty();
        assertThat(OperationForms.read("Downsample[intervals=Of[length=PT15M]]"))
                .isEmpty();
        assertThat(OperationForms.read("split")).isEmpty();
    }

    @Test
    void whatIsRememberedKeepsItsNames() {
        String state = "{\"waiting\":[{\"message\":\"00000000-0000-7000-0000-000000000001\","
                + "\"received\":\"2026-04-12T03:00:00Z\",\"at\":\"2026-04-12T03:00:00Z\",\"fields\":{\"t\":1.5}}],"
                + "\"own\":{\"from\":\"2026-04-12T03:00:00Z\",\"to\":\"2026-04-12T03:15:00Z\","
                + "\"stamp\":\"2026-04-12T03:15:00Z\",\"lastCame\":\"2026-04-12T03:00:00Z\",\"messages\":1,"
                + "\"values\":{\"t\":{\"last\":1.5,\"count\":1,\"min\":1.5,\"max\":1.5,\"sum\":1.5,\"compensation\":0.0}},"
                + "\"closed\":\"2026-04-12T02:00:00Z\"},\"generation\":2}";
        JsonMapper json = JsonMapper.shared();
        Timeline.State<?> read = json.readValue(
                state, json.getTypeFactory().constructParametricType(Timeline.State.class, Downsample.State.class));

        assertThat(read.generation()).isEqualTo(2);
        assertThat(((Downsample.State) read.own()).messages()).isEqualTo(1);
        assertThat(json.readTree(json.writeValueAsString(read))).isEqualTo(json.readTree(state));
    }

    private static Timeline<Downsample.State> quarters(Map<String, Choice> choices) {
        return new Timeline<>(
                new Downsample(new Intervals.Of(QUARTER), QUARTER, ZoneOffset.UTC, choices, null), Duration.ZERO, true);
    }

    @Test
    void whatIsChangedInTheMiddleMakesWhatItTookAndBeginsAnewUnderAnotherName() {
        Timeline<Downsample.State> means = quarters(Map.of("t", Choice.MEAN));
        Step<Timeline.State<Downsample.State>> taken =
                means.advance(means.empty(), List.of(input(1, 0, 0, Map.of("t", 4.0))), Played.T0);
        Step.Name before = means.making(taken.state()).orElseThrow();

        Step<Timeline.State<Downsample.State>> ended = means.end(taken.state());

        assertThat(ended.made()).singleElement().satisfies(one -> {
            assertThat(one.name()).isEqualTo(before);
            assertThat(one.data()).isEqualTo(Map.of("t", 4.0));
            assertThat(one.note()).endsWith("; closed early, since the lane was changed");
        });
        Timeline<Downsample.State> maxima = quarters(Map.of("t", Choice.MAX));
        Step<Timeline.State<Downsample.State>> next = maxima.advance(
                maxima.empty(taken.state().generation() + 1),
                List.of(input(2, 60, 60, Map.of("t", 5.0))),
                Played.T0.plusSeconds(60));
        Step.Name after = maxima.making(next.state()).orElseThrow();
        assertThat(after).isNotEqualTo(before);
        assertThat(next.fates())
                .containsExactly(new Step.Fate.Merged(input(2, 60, 60, Map.of()).message(), after));
    }

    @Test
    void aMessageFromATimeThatHasNotComeCountsAsOfWhenItCame() {
        Instant came = Instant.parse("2026-04-12T03:20:00Z");

        assertThat(Input.of(null, came, Instant.parse("2100-01-01T00:00:00Z"), Map.of())
                        .at())
                .isEqualTo(came);
        assertThat(Input.of(null, came, came.plusSeconds(240), Map.of()).at()).isEqualTo(came.plusSeconds(240));
        assertThat(Input.of(null, came, Instant.EPOCH, Map.of()).at()).isEqualTo(Instant.EPOCH);
    }

    @Test
    void noStampLiesFarAheadOfWhatCame() {
        Timeline<Downsample.State> years = new Timeline<>(
                new Downsample(null, Duration.ofDays(4_000), ZoneOffset.UTC, Map.of(), Choice.LAST),
                Duration.ZERO,
                true);

        Timeline.State<Downsample.State> state = years.advance(
                        years.empty(), List.of(input(1, 0, 0, Map.of("t", 4.0))), Played.T0)
                .state();

        assertThat(years.making(state).orElseThrow().stamp()).isEqualTo(Played.T0.plus(Duration.ofDays(32)));
    }
}
