package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import org.junit.jupiter.api.Test;

class ExplanationTest {

    private static final Scope SCOPE = new Scope(
            Map.of("wetBulb", -0.4, "items", java.util.List.of(1.0, 5.0)),
            Map.of("type", "reading"),
            Map.of("facts", Map.of("frostProne", false, "orchard", "Dunmere")),
            Map.of("wetBulb", "Cel"));

    private final ExpressionCompiler compiler = new ExpressionCompiler();

    @Test
    void givesTheValueOfEachPart() throws ExpressionProblem {
        Explanation whole = compiler.explain("data.wetBulb * 2 < 0.3 && device.facts.frostProne", SCOPE);

        assertThat(whole.truth()).isFalse();
        assertThat(whole.parts())
                .extracting(Explanation::source)
                .containsExactly("data.wetBulb * 2 < 0.3", "device.facts.frostProne");
        assertThat(whole.parts()).extracting(Explanation::truth).containsExactly(true, false);
        Explanation product = whole.parts().getFirst().parts().getFirst();
        assertThat(product.value()).isEqualTo("-0.8");
        assertThat(product.parts().getFirst().value()).isEqualTo("-0.4 Cel");
    }

    @Test
    void saysWhyAPartHasNoValue() throws ExpressionProblem {
        Explanation whole = compiler.explain("data.rain > 3 || data.wetBulb < 0", SCOPE);

        assertThat(whole.truth()).isTrue();
        assertThat(whole.parts().getFirst().whyNone()).isEqualTo("data.rain is not there");
        assertThat(whole.parts().getFirst().parts().getFirst().whyNone()).isEqualTo("data.rain is not there");
    }

    @Test
    void tellsThreeAlternativesAsThree() throws ExpressionProblem {
        assertThat(compiler.explain("data.wetBulb < 0 && true && meta.type == 'reading'", SCOPE)
                        .parts())
                .extracting(Explanation::source)
                .containsExactly("data.wetBulb < 0", "meta.type == \"reading\"");
    }

    @Test
    void leavesTheInsideOfMacrosAlone() throws ExpressionProblem {
        Explanation whole = compiler.explain(
                "data.items.exists(x, x > 3) && default(data.rain, 0) == 0 && has(data.wetBulb)", SCOPE);

        assertThat(whole.truth()).isTrue();
        assertThat(whole.parts())
                .extracting(Explanation::source)
                .containsExactly("data.items.exists(x, x > 3)", "(default(data.rain, 0)) == 0", "has(data.wetBulb)");
    }

    @Test
    void namesTheNearestTable() {
        ExpressionCompiler with =
                compiler.withTables(Map.of("pump-states", new LookupTable("pump-states", Map.of(), null)));

        assertThatThrownBy(() -> with.condition("true &&\n  lookup('pump-state', data.wetBulb) == 'x'"))
                .isInstanceOfSatisfying(ExpressionProblem.class, problem -> {
                    assertThat(problem).hasMessage("there is no lookup `pump-state`; did you mean `pump-states`?");
                    assertThat(problem.line()).isEqualTo(2);
                });
        assertThatThrownBy(() -> compiler.expression("lookup('x', 1)"))
                .hasMessage("there is no lookup `x`; the setup has no lookups");
    }

    @Test
    void aDefaultNeedsAFieldFirst() {
        assertThatThrownBy(() -> compiler.expression("default(1, 2)"))
                .hasMessage("default() takes a field first, such as default(data.level, 0)");
    }
}
