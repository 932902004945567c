package org.holtra.core.picking;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SetupSamples;
import org.holtra.core.setup.compile.SetupCompiler;
import org.junit.jupiter.api.Test;

class PickerTest {

    private static final String SETUP = """
            models:
              probe:
                fields: {moisture10: {unit: "%"}}
                points:
                  upper: {fields: {moisture: moisture10}}
                  lower: {fields: {moisture: moisture30}}
            inlets:
              in: {kind: any, at: {}}
              other: {kind: any, at: {}}
            outlets:
              out: {kind: any, to: {}}
            lanes:
              picked: {inlets: [in], devices: {only: [p-1, p-2]}, outlet: out}
              fitting: {inlets: [in], devices: {where: device.facts.deep}, pick: data.moisture10 > 5, outlet: out}
              points: {inlets: [in], per: point, pick: data.moisture > 20, outlet: out}
              elsewhere: {inlets: [other], outlet: out}
            """;

    private final Setup setup = SetupSamples.compile(SETUP);

    private static Scope scope(String key, boolean deep, Map<String, Object> data) {
        return new Scope(
                data,
                Map.of(),
                Map.of("key", key, "facts", Map.of("deep", deep), "points", Map.of("upper", Map.of("reference", "A1"))),
                Map.of("moisture10", "%"));
    }

    @Test
    void takesByDeviceByConditionAndByPoint() {
        Model probe = setup.models().get("probe");
        Scope scope = scope("p-1", true, Map.of("moisture10", 31.0, "moisture30", 12.0));

        assertThat(Picker.takes(setup, "in", scope, probe))
                .extracting(take -> take.lane().name() + "/" + take.point())
                .containsExactly("picked/null", "fitting/null", "points/upper");
    }

    @Test
    void saysWhyALaneTakesNothing() {
        Model probe = setup.models().get("probe");
        Scope scope = scope("p-9", false, Map.of("moisture10", 3.0));

        assertThat(Picker.decisions(setup, "in", scope, probe))
                .extracting(Picker.Decision::whyNot)
                .containsExactly(
                        "device `p-9` is not among the 2 it serves",
                        "it does not serve this device: `device.facts.deep` is false (device.facts.deep is false)",
                        "point upper: `data.moisture > 20` is false (data.moisture is 3 %)");
        assertThat(Picker.whyNot(setup.lanes().get("points"), scope, null))
                .isEqualTo("it takes points, and this message tells of none");
    }

    @Test
    void aPointIsSeenByItsOwnNamesAndFacts() {
        Scope point = Points.scope(
                scope("p-1", true, Map.of("moisture10", 31.0)), setup.models().get("probe"), "upper");

        assertThat(point.data()).isEqualTo(Map.of("moisture", 31.0));
        assertThat(point.units()).isEqualTo(Map.of("moisture", "%"));
        assertThat(point.device().get("point")).isEqualTo(Map.of("name", "upper", "reference", "A1"));
    }

    @Test
    void oneLaneIsCompiledByItself() {
        SetupCompiler compiler = SetupSamples.compiler();

        SetupCompiler.LaneResult wrong = compiler.lane(
                setup,
                "new",
                Map.of(
                        "inlets",
                        java.util.List.of("inn"),
                        "outlet",
                        "out",
                        "pick",
                        "data.x <",
                        "shape",
                        Map.of("body", "${")));
        assertThat(wrong.lane()).isEmpty();
        assertThat(wrong.problems())
                .extracting(problem -> problem.where() + ": "
                        + problem.what().lines().findFirst().orElse(""))
                .containsExactlyInAnyOrder(
                        "lanes.new.inlets.0: there is no inlet `inn`; did you mean `in`?",
                        "lanes.new.pick: the expression ends too early: a value, or a closing bracket, is missing at its end",
                        "lanes.new.shape.body: `${` is opened here and never closed by `}`");

        Lane lane = compiler.lane(setup, "new", Map.of("inlets", java.util.List.of("in"), "outlet", "out"))
                .lane()
                .orElseThrow();
        assertThat(setup.with(lane).lanesOf("in")).extracting(Lane::name).endsWith("new");
    }
}
