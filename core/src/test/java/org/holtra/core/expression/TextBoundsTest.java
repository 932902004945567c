package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;

import java.util.Collections;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class TextBoundsTest {

    private static final ExpressionCompiler COMPILER = new ExpressionCompiler();
    private static final Scope HUGE = new Scope(
            Map.of(
                    "t", "a".repeat(400_000),
                    "u", "b".repeat(500_000),
                    "l", Collections.nCopies(5_000, "c".repeat(5_000))),
            Map.of(),
            Map.of());

    @ParameterizedTest
    @ValueSource(
            strings = {
                "data.t.replace('a', data.u)",
                "data.t.replace('', data.u)",
                "data.t.replace('a', data.u, 20)",
                "data.l.join(data.u)",
                "data.l.join()",
                "data.t + data.t + data.t + data.t + data.t + data.t + data.t + data.t + data.t + data.t + data.t",
            })
    void aTextIsMeasuredBeforeItIsMade(String source) throws ExpressionProblem {
        assertThat(COMPILER.expression(source).evaluate(HUGE))
                .isInstanceOfSatisfying(
                        Outcome.None.class,
                        none -> assertThat(none.reason()).contains("a text would be longer than 4194304 characters"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            quoteCharacter = '"',
            value = {
                "\"'hello hello'.replace('he', 'we')\" ; wello wello",
                "\"'hello hello'.replace('he', 'we', 1)\" ; wello hello",
                "\"'hello hello'.replace('he', 'we', 0)\" ; hello hello",
                "\"'hello'.replace('', '_')\" ; _h_e_l_l_o_",
                "\"'hello'.replace('', '_', 2)\" ; _h_ello",
                "\"'aaa'.replace('aa', 'b')\" ; ba",
                "\"'hello'.replace('x', 'y')\" ; hello",
                "\"['a', 'b'].join('-')\" ; a-b",
                "\"['a', 'b'].join()\" ; ab",
                "\"data.t.size() > 0 ? 'yes' + '!' : 'no'\" ; yes!",
            })
    void withinTheBoundTheyGiveWhatTheLibraryGives(String source, String expected) throws ExpressionProblem {
        assertThat(COMPILER.expression(source).evaluate(HUGE)).isEqualTo(new Outcome.Value(expected));
    }

    @Test
    void theReasonIsShortHoweverLongTheValues() throws ExpressionProblem {
        assertThat(COMPILER.expression("[1, 2, 3].map(x, data.l.join('') + data.u).size() > 0")
                        .evaluate(HUGE))
                .isInstanceOfSatisfying(
                        Outcome.None.class,
                        none -> assertThat(none.reason())
                                .contains("has no value")
                                .hasSizeLessThan(1_000));
    }

    @Test
    void anExpressionOfTooManyPartsIsRefusedBeforeItIsCompiled() {
        String operands = String.join(" || ", Collections.nCopies(5_000, "data.a < 1"));
        long began = System.nanoTime();

        assertThatExceptionOfType(ExpressionProblem.class)
                .isThrownBy(() -> COMPILER.condition(operands))
                .withMessageContaining("more than");
        assertThat(System.nanoTime() - began).isLessThan(20_000_000_000L);
    }

    @Test
    void anExpressionOfManyPartsIsStillOne() throws ExpressionProblem {
        String operands = String.join(" || ", Collections.nCopies(100, "data.a < 1"));

        assertThat(COMPILER.condition(operands).holds(new Scope(Map.of("a", 0.0), Map.of(), Map.of())))
                .isTrue();
    }
}
