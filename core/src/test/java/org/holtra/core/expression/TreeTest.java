package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;

/** The tree of our own gives what the general runtime gives, or leaves it to it. */
class TreeTest {

    private static final List<Object> VALUES = Arrays.asList(
            0.0,
            -0.0,
            1.0,
            -1.5,
            3.0,
            Double.NaN,
            Double.POSITIVE_INFINITY,
            0L,
            1L,
            3L,
            -7L,
            9_007_199_254_740_993L,
            5,
            "",
            "a",
            "row 4",
            "\uD83C\uDF4E",
            "\uFFFD",
            true,
            false,
            Map.of("x", 1.0),
            List.of(1.0),
            new byte[] {1});
    private static final List<String> NAMES = List.of("a", "b", "c", "gone");
    private static final List<String> COMPARISONS = List.of("<", "<=", ">", ">=", "==", "!=");

    private final ExpressionCompiler compiler = new ExpressionCompiler();
    private final Random random = new Random(20_260_412);

    private String operand(int depth) {
        return switch (random.nextInt(depth > 0 ? 9 : 6)) {
            case 0, 1, 2 -> "data." + NAMES.get(random.nextInt(NAMES.size()));
            case 3 -> "data.in." + NAMES.get(random.nextInt(NAMES.size()));
            case 4 -> List.of("0.3", "3", "-1.5", "'a'", "'row 4'", "true", "1").get(random.nextInt(7));
            case 5 -> "device.facts.a";
            default ->
                "(" + operand(depth - 1) + " " + List.of("+", "-", "*", "/").get(random.nextInt(4)) + " "
                        + operand(depth - 1) + ")";
        };
    }

    private String condition(int depth) {
        if (depth == 0 || random.nextInt(4) == 0) {
            return switch (random.nextInt(8)) {
                case 0 -> "has(data." + NAMES.get(random.nextInt(NAMES.size())) + ")";
                case 1 -> "has(data.gone.x)";
                case 2 -> "data.a.startsWith('r')";
                case 3 -> operand(0) + " in ['a', 'row 4']";
                case 4 -> "data.b";
                default -> operand(1) + " " + COMPARISONS.get(random.nextInt(6)) + " " + operand(1);
            };
        }
        return switch (random.nextInt(4)) {
            case 0 -> "!(" + condition(depth - 1) + ")";
            case 1 -> "(" + condition(depth - 1) + " ? " + condition(depth - 1) + " : " + condition(depth - 1) + ")";
            case 2 -> "(" + condition(depth - 1) + " || " + condition(depth - 1) + ")";
            default -> "(" + condition(depth - 1) + " && " + condition(depth - 1) + ")";
        };
    }

    private Scope scope() {
        Map<String, Object> data = new HashMap<>();
        for (String name : List.of("a", "b", "c")) {
            if (random.nextInt(6) > 0) {
                data.put(name, VALUES.get(random.nextInt(VALUES.size())));
            }
        }
        data.put("in", Map.of("a", 2.5, "b", "row 4"));
        return new Scope(data, Map.of(), Map.of("facts", Map.of("a", VALUES.get(random.nextInt(14)))));
    }

    @Test
    void givesWhatTheRuntimeGives() {
        List<Expression> expressions = new ArrayList<>();
        while (expressions.size() < 600) {
            try {
                expressions.add(compiler.expression(condition(2)));
            } catch (ExpressionProblem e) {
                continue; // types that can never fit are told by the checker
            }
        }
        int settled = 0;
        for (Expression expression : expressions) {
            for (int i = 0; i < 40; i++) {
                Scope scope = scope();
                Outcome judged = expression.judged(scope);
                Outcome fast = expression.evaluate(scope);
                String shown = expression.source() + " over " + scope.data() + " " + scope.device();
                assertThat(fast.getClass()).as(shown).isEqualTo(judged.getClass());
                if (judged instanceof Outcome.Value(Object value)) {
                    assertThat(((Outcome.Value) fast).value()).as(shown).isEqualTo(value);
                    settled++;
                }
                assertThat(expression.holds(scope))
                        .as(shown)
                        .isEqualTo(judged instanceof Outcome.Value(Object value) && Boolean.TRUE.equals(value));
            }
        }
        assertThat(settled).isGreaterThan(5_000);
    }

    @Test
    void isMadeOfWhatConditionsAreMostlyMadeOf() throws ExpressionProblem {
        for (String source : List.of(
                "data.wetBulb < 0.3 && device.facts.frostProne && meta.type == 'reading'",
                "has(data.rain) || data.level * 2.0 > 3",
                "device.key in ['a', 'b'] ? 'x' : 'y'",
                "data['odd name'] != 3")) {
            assertThat(TreeCompiler.compile(compiler.tree(source))).as(source).isPresent();
        }
        assertThat(TreeCompiler.compile(compiler.tree("data.items.exists(x, x > 3)")))
                .isEmpty();
    }
}
