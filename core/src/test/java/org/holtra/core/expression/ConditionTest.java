package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import org.holtra.core.reading.content.JsonFormat;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ConditionTest {

    private final ExpressionCompiler compiler = new ExpressionCompiler();

    private static Scope scope(String json) throws Exception {
        Object data = new JsonFormat().parse(json.getBytes(StandardCharsets.UTF_8));
        return new Scope(data, Map.of("inlet", "masts"), Map.of("facts", Map.of("frostProne", true)));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "data.t * 10 == 215",
                "10 * data.t == 215.0",
                "data.t + 1 == 22.5",
                "1 + data.t == 22.5",
                "data.t - 1 == 20.5",
                "100 - data.t == 78.5",
                "data.t / 2 == 10.75",
                "43 / data.t == 2.0",
                "data.n % 4 == 3.0",
                "data.n % 4.0 == 3",
                "7 % data.n == 0.0",
                "data.n > 6 && data.n < 7.5",
                "data.n == 7",
                "data.list[0] == 1 && size(data.list) == 2",
                "data.list.exists(x, x > 1)",
                "has(data.t) && !has(data.other)",
                "data.none == null",
                "data.big == 1764042120123456789",
                "data.text.startsWith('ab')",
                "device.facts.frostProne && meta.inlet == 'masts'",
                "data['air-temp'] < 0"
            })
    void holds(String source) throws Exception {
        Scope scope = scope("{\"t\":21.5,\"n\":7,\"list\":[1,2],\"none\":null,\"big\":1764042120123456789,"
                + "\"text\":\"abc\",\"air-temp\":-1}");

        assertThat(compiler.condition(source).whyNot(scope)).isEmpty();
        assertThat(compiler.condition(source).holds(scope)).isTrue();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
                    data.wetBulb < 0.5 | data.wetBulb is not there
                    data.t > 0 && data.air.wetBulb < 0.5 | data.air.wetBulb is not there
                    data.t > 0 && data.t < 5 | `data.t < 5` is false (data.t is 21.5)
                    data.t > 0 && (data.t < 5 OR data.n == 3) | `data.t < 5 OR data.n == 3` is false (data.t is 21.5, data.n is 7)
                    data.name < 5 | `data.name < 5` has no value: an operator does not work on the types it met (data.name is "Ashcombe")
                    data.none < 5 | `data.none < 5` has no value: an operator does not work on the types it met (data.none is null)
                    data.t | `data.t` is neither true nor false but 21.5
                    1 / 0 == 1 | `1 / 0 == 1` has no value: it divides by zero
                    device.facts.row == 4 | device.facts.row is not there
                    """)
    void tellsWhyItDoesNotHold(String source, String reason) throws Exception {
        Scope scope = scope("{\"t\":21.5,\"n\":7,\"name\":\"Ashcombe\",\"none\":null}");

        Condition condition = compiler.condition(source.replace("OR", "||").strip());

        assertThat(condition.holds(scope)).isFalse();
        assertThat(condition.whyNot(scope)).contains(reason.replace("OR", "||").strip());
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
                    data.t <| 9 | the expression ends too early
                    data.t = 3| 8 | compare with `==`
                    temp < 3| 1 | nothing is called `temp`
                    data.t < 3 data.n| 12 | was not expected here
                    data.name == "abc| 14 | never closed
                    1 + 2| 1 | a condition must be true or false, this gives an int
                    """)
    void namesAMistakeAndItsPlace(String source, int column, String what) {
        assertThatThrownBy(() -> compiler.condition(source))
                .isInstanceOfSatisfying(ExpressionProblem.class, problem -> {
                    assertThat(problem).hasMessageContaining(what);
                    assertThat(problem.line()).isEqualTo(1);
                    assertThat(problem.column()).isEqualTo(column);
                    assertThat(problem.picture()).startsWith(source + "\n").endsWith("^");
                });
    }

    @Test
    void boundsAComprehension() throws Exception {
        Condition condition = compiler.condition(
                "data.list.all(a, data.list.all(b, data.list.all(c, data.list.all(d, a + b + c + d > 0.0))))");
        Scope scope = scope("{\"list\":[" + "1,".repeat(99) + "1]}");

        assertThat(condition.whyNot(scope).orElseThrow()).contains("longer than an expression may walk");
    }
}
