package org.holtra.bench;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.picking.Picker;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.shape.ShapeFailure;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Param;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;
import tools.jackson.databind.json.JsonMapper;

/** What picking and shaping one message cost on one thread, beside hand-written Java doing the same. */
@State(Scope.Benchmark)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
@Fork(1)
@Warmup(iterations = 3, time = 2)
@Measurement(iterations = 4, time = 2)
public class LaneBench {

    private static final String CONDITION = "data.wetBulb < 0.3 && device.facts.frostProne && meta.type == 'reading'";
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Map<String, Object> data =
            Map.of("airTemperature", -1.0, "wetBulb", -2.25, "humidity", 87.5, "leafWetness", 3.0, "battery", 69.0);
    private final Map<String, Object> meta =
            Map.of("type", "reading", "eventTime", java.time.Instant.parse("2026-04-12T03:20:00Z"), "inlet", "own");
    private final Map<String, Object> device = Map.of(
            "key",
            "cs-05",
            "facts",
            Map.of("frostProne", true, "orchard", "Ashcombe", "row", 2L, "variety", "Vale Queen"));
    private final org.holtra.core.expression.Scope scope = new org.holtra.core.expression.Scope(data, meta, device);
    private final Condition condition = condition();
    private final Lane lane = setup(1, 0).lanes().get("own-0");

    /** Lanes that look at the message's inlet, each with a condition of three parts that is not met by its number. */
    @State(Scope.Benchmark)
    public static class Own {
        @Param({"1", "10", "100", "1000"})
        int lanes;

        Setup setup;

        @org.openjdk.jmh.annotations.Setup
        public void compile() {
            setup = setup(lanes, 0);
        }
    }

    /** One lane of the message's inlet among many of another. */
    @State(Scope.Benchmark)
    public static class Foreign {
        @Param({"0", "1000"})
        int lanes;

        Setup setup;

        @org.openjdk.jmh.annotations.Setup
        public void compile() {
            setup = setup(1, lanes);
        }
    }

    private static Condition condition() {
        try {
            return new ExpressionCompiler().condition(CONDITION);
        } catch (ExpressionProblem e) {
            throw new IllegalStateException(e);
        }
    }

    private static Setup setup(int own, int others) {
        Kind any = new Kind() {
            @Override
            public String name() {
                return "any";
            }

            @Override
            public Optional<String> inletForm() {
                return Optional.of("{}");
            }

            @Override
            public Optional<String> outletForm() {
                return Optional.of("{}");
            }
        };
        StringBuilder yaml = new StringBuilder("""
                inlets:
                  own: {kind: any, at: {}}
                  other: {kind: any, at: {}}
                outlets: {out: {kind: any, to: {}}}
                lanes:
                """);
        for (int i = 0; i < own + others; i++) {
            boolean mine = i < own;
            yaml.append("  %s-%d:\n    inlets: [%s]\n    outlet: out\n"
                    .formatted(mine ? "own" : "other", i, mine ? "own" : "other"));
            yaml.append("    pick: data.wetBulb < %s && device.facts.frostProne && meta.type == 'reading'\n"
                    .formatted(i == 0 ? "0.3" : -100.5 - i));
            yaml.append("""
                        shape:
                          body:
                            what: frost call
                            where: "${device.facts.orchard}, row ${device.facts.row}"
                            variety: "${device.facts.variety}"
                            wetBulb: "${data.wetBulb}"
                            measured: "${meta.eventTime}"
                            device: "${device.key}"
                    """);
        }
        return new SetupCompiler(List.of(any), new ExpressionCompiler())
                .compile(yaml.toString())
                .setup()
                .orElseThrow();
    }

    @Benchmark
    public boolean conditionOfThreeParts() {
        return condition.holds(scope);
    }

    @Benchmark
    public boolean conditionByHand() {
        return data.get("wetBulb") instanceof Double wetBulb
                && wetBulb < 0.3
                && device.get("facts") instanceof Map<?, ?> facts
                && Boolean.TRUE.equals(facts.get("frostProne"))
                && "reading".equals(meta.get("type"));
    }

    @Benchmark
    public List<Picker.Take> pickAmongOwn(Own own) {
        return Picker.takes(own.setup, "own", scope, null);
    }

    @Benchmark
    public List<Picker.Take> pickBesideOthers(Foreign others) {
        return Picker.takes(others.setup, "own", scope, null);
    }

    @Benchmark
    public byte[] shapeOfSixFields() throws ShapeFailure {
        return lane.shape().fill(scope).body();
    }

    @Benchmark
    public byte[] shapeByHand() {
        Map<String, Object> body = LinkedHashMap.newLinkedHashMap(6);
        Map<?, ?> facts = (Map<?, ?>) device.get("facts");
        body.put("what", "frost call");
        body.put("where", facts.get("orchard") + ", row " + facts.get("row"));
        body.put("variety", facts.get("variety"));
        body.put("wetBulb", data.get("wetBulb"));
        body.put("measured", meta.get("eventTime").toString());
        body.put("device", device.get("key"));
        return JSON.writeValueAsBytes(body);
    }
}
