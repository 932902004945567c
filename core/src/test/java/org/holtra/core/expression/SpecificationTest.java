package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/**
 * Results that CEL's language definition prescribes, by its sections. The specification's own conformance tests are not
 * published to a package registry; this table of ours stands in for them.
 */
class SpecificationTest {

    private static final Scope SCOPE = new Scope(
            Map.of(
                    "d",
                    2.5,
                    "i",
                    7L,
                    "s",
                    "orchard",
                    "t",
                    true,
                    "list",
                    List.of(1.0, 2.0, 3.0),
                    "map",
                    Map.of("k", "v")),
            Map.of(),
            Map.of());

    private final ExpressionCompiler compiler = new ExpressionCompiler();

    @ParameterizedTest(name = "{0}: {1}")
    @CsvSource(delimiter = ';', quoteCharacter = '~', textBlock = """
            Logical operators ; false && data.gone ; false
            Logical operators ; data.gone && false ; false
            Logical operators ; true && data.gone ; error
            Logical operators ; true || data.gone ; true
            Logical operators ; data.gone || true ; true
            Logical operators ; data.gone || false ; error
            Logical operators ; !data.t ; false
            Logical operators ; true ? 1 : data.gone ; 1
            Logical operators ; data.gone ? 1 : 2 ; error
            Equality ; 1 == 1.0 ; true
            Equality ; data.i == 7 ; true
            Equality ; data.d != 2.5 ; false
            Equality ; data.s == 'orchard' ; true
            Equality ; data.s == data.i ; false
            Equality ; data.list == [1.0, 2.0, 3.0] ; true
            Equality ; data.map == {'k': 'v'} ; true
            Ordering operators ; 1 < 1.5 ; true
            Ordering operators ; 'a' < 'b' ; true
            Ordering operators ; false < true ; true
            Ordering operators ; data.s < 3 ; error
            Overflow ; 9223372036854775807 + 1 ; error
            Overflow ; -9223372036854775808 - 1 ; error
            Numeric values ; 7 / 2 ; 3
            Numeric values ; -7 / 2 ; -3
            Numeric values ; 7 % 3 ; 1
            Numeric values ; 1 / 0 ; error
            Numeric values ; 7.0 / 2.0 ; 3.5
            Numeric values ; -data.d ; -2.5
            String and bytes values ; 'a' + 'b' ; ab
            String and bytes values ; size('größe') ; 5
            String and bytes values ; size(b'gr\\303\\266') ; 4
            String and bytes values ; r'\\d' == '\\\\d' ; true
            String functions ; data.s.startsWith('orch') ; true
            String functions ; data.s.endsWith('ard') ; true
            String functions ; data.s.contains('cha') ; true
            String functions ; data.s.matches('^o.*d$') ; true
            Aggregate values ; data.list[1] ; 2
            Aggregate values ; data.list[9] ; error
            Aggregate values ; data.map['k'] ; v
            Aggregate values ; data.map['gone'] ; error
            Aggregate values ; size(data.list) ; 3
            Aggregate values ; 2.0 in data.list ; true
            Aggregate values ; 'k' in data.map ; true
            Field selection ; has(data.map.k) ; true
            Field selection ; has(data.map.gone) ; false
            Field selection ; data.map.k ; v
            Field selection ; data.gone ; error
            Macros ; data.list.all(x, x > 0.0) ; true
            Macros ; data.list.exists(x, x > 2.5) ; true
            Macros ; data.list.exists_one(x, x > 1.5) ; false
            Macros ; data.list.map(x, x * 2.0) ; [2, 4, 6]
            Macros ; data.list.filter(x, x != 2.0) ; [1, 3]
            Type conversions ; int('42') ; 42
            Type conversions ; int(2.9) ; 2
            Type conversions ; double('1.5') ; 1.5
            Type conversions ; string(7) ; 7
            Type conversions ; int('x') ; error
            Type conversions ; type(1.5) == double ; true
            Timestamps and durations ; timestamp('2026-04-12T03:20:00Z') + duration('90s') ; 2026-04-12T03:21:30Z
            Timestamps and durations ; timestamp('2026-04-12T03:20:00Z').getHours() ; 3
            Timestamps and durations ; duration('1h') > duration('59m') ; true
            Gradual type checking ; dyn(1) == 1 ; true
            """)
    void givesWhatTheSpecificationPrescribes(String section, String source, String wanted) throws ExpressionProblem {
        Expression expression = compiler.expression(source);

        String found = told(expression.evaluate(SCOPE));

        assertThat(found).as(section).isEqualTo(wanted);
        assertThat(told(expression.judged(SCOPE))).as("the runtime, " + section).isEqualTo(wanted);
    }

    private static String told(Outcome outcome) {
        return switch (outcome) {
            case Outcome.Value(Object value) -> String.valueOf(Plain.of(value));
            case Outcome.None none -> "error";
        };
    }

    @Test
    void walksNoListForEver() throws ExpressionProblem {
        String deep = "data.list.all(a, data.list.all(b, data.list.all(c, data.list.all(d, data.list.all(e,"
                + " data.list.all(f, data.list.all(g, data.list.all(h, data.list.all(i, data.list.all(j, true))))))))))";

        assertThat(compiler.expression(deep).evaluate(SCOPE)).isInstanceOf(Outcome.None.class);
    }
}
