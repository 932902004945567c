package org.holtra.core.setup.advice;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import java.util.Optional;
import java.util.Set;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SetupSamples;
import org.holtra.core.setup.document.SetupProblem;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

public class SetupAdviceTest {

    private static final FieldKnowledge SEEN = new FieldKnowledge() {
        @Override
        public Optional<Range> range(Set<String> inlets, String field) {
            return switch (field) {
                case "t" -> Optional.of(new Range(-3.1, 21.45, 1204));
                case "rare" -> Optional.of(new Range(0, 1, 3));
                default -> Optional.empty();
            };
        }

        @Override
        public Set<String> names(Set<String> inlets) {
            return Set.of("t", "rare", "h", "wind.speed", "never");
        }

        @Override
        public Set<String> models(Set<String> inlets) {
            return Set.of("m");
        }

        @Override
        public Set<String> devices() {
            return Set.of("cs-01", "cs-02");
        }

        @Override
        public Set<String> facts() {
            return Set.of("altitude", "frostProne");
        }
    };

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            data.t < 90                   | data.t is compared with 90, but the 1204 values seen were -3.1 to 21.45 Cel; is the number in another unit?
            data.h > 3 && -70.5 > data.t  | data.t is compared with -70.5, but the 1204 values seen were -3.1 to 21.45 Cel; is the number in another unit?
            data.t < data.outside         | data.t is in Cel and data.outside in [degF]; compare it with convert(data.outside, '[degF]', 'Cel')
            data.t < data.battery         | data.t is in Cel and data.battery in %, which measure different things
            data.wind.sped > 3            | data.wind.sped was never seen on in; did you mean data.wind.speed?
            data.zzzzzzzz > 3             | data.zzzzzzzz was never seen on in
            device.last.rain.value > 3    | device.last.rain.value may be days old; look at its age too, as in device.last.rain.age < duration('1h')
            device.last.rain.value > 3 && device.last.rain.age < duration('1h') |
            device.last.wind.gust.time > timestamp('2026-04-18T05:00:00Z') |
            has(data.gone) && data.h > 3  |
            data.wind == null             |
            data.t < 30 || data.t > -20   |
            data.t < data.dew             |
            data.rare > 1000              |
            data.never > 1000             |
            device.facts.altitude > 9000  |
            device.facts.altitud > 9000   | device.facts.altitud is known of no device; did you mean device.facts.altitude?
            device.facts.maker == 'Vale'  |
            data.other > 3                | data.other was never seen on in
            """)
    void warnsOfComparisonsThatCannotBeMeant(String pick, String warning) {
        String yaml = """
                models:
                  m: {facts: {maker: Vale}, fields: {t: {unit: Cel}, dew: {unit: Cel}, outside: {unit: "[degF]"}, battery: {unit: "%%"}}}
                  elsewhere: {fields: {other: {}}}
                inlets: {in: {kind: any, at: {}}}
                outlets: {out: {kind: any, to: {}}}
                lanes:
                  l:
                    inlets: [in]
                    pick: "%s"
                    outlet: out
                """.formatted(pick);

        var warnings = SetupAdvice.of(yaml, SetupSamples.compile(yaml), SEEN);

        if (warning == null) {
            assertThat(warnings).isEmpty();
        } else {
            assertThat(warnings).extracting(SetupProblem::what).containsExactly(warning);
            assertThat(warnings.getFirst().line()).isEqualTo(9);
        }
    }

    @Test
    void warnsOfAFieldInAShapeThatNobodySent() {
        String yaml = """
                inlets: {in: {kind: any, at: {}}}
                outlets: {out: {kind: any, to: {}}}
                lanes:
                  l:
                    inlets: [in]
                    outlet: out
                    shape:
                      path: /x/${data.h}
                      body: {deep: {wind: "${data.wind.sped} and ${data.h}", "maybe?": "${data.t}"}}
                """;
        Setup setup = SetupSamples.compile(yaml);

        assertThat(SetupAdvice.of(yaml, setup, SEEN))
                .extracting(SetupProblem::where, SetupProblem::what)
                .containsExactly(tuple(
                        "lanes.l.shape.body.deep.wind",
                        "data.wind.sped was never seen on in; did you mean data.wind.speed?"));
        assertThat(SetupAdvice.of(setup.lanes().get("l"), setup, SEEN))
                .containsExactly(
                        "shape.body.deep.wind: data.wind.sped was never seen on in; did you mean data.wind.speed?");
    }

    @Test
    void warnsOfDevicesThatAreListedAndNotThereAndOfFactsThatNoneHas() {
        String yaml = """
                inlets: {in: {kind: any, at: {}}}
                outlets: {out: {kind: any, to: {}}}
                lanes:
                  a: {inlets: [in], outlet: out, devices: {only: [cs-01, cs-11]}}
                  b: {inlets: [in], outlet: out, devices: {where: device.facts.frostPron}}
                """;
        assertThat(SetupAdvice.of(yaml, SetupSamples.compile(yaml), SEEN))
                .extracting(SetupProblem::where, SetupProblem::what)
                .containsExactlyInAnyOrder(
                        tuple("lanes.a.devices", "there is no device `cs-11` yet; did you mean `cs-01`?"),
                        tuple(
                                "lanes.b.devices",
                                "device.facts.frostPron is known of no device; did you mean device.facts.frostProne?"));
    }

    @Test
    void knowsTheFieldsOfAlarmsBeforeTheFirstIsRaised() {
        String yaml = """
                inlets: {in: {kind: any, at: {}}}
                outlets: {out: {kind: any, to: {}}}
                lanes:
                  l:
                    inlets: [holtra]
                    pick: data.extreme < 0.0
                    outlet: out
                    shape: {body: {a: "${data.extremeAt}", b: "${data.extremAt}"}}
                """;

        assertThat(SetupAdvice.of(yaml, SetupSamples.compile(yaml), SEEN))
                .extracting(SetupProblem::what)
                .containsExactly("data.extremAt was never seen on holtra; did you mean data.extremeAt?");
    }
}
