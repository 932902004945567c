package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class OwnFunctionsTest {

    private static final Scope SCOPE = new Scope(
            Map.of(
                    "energy",
                    1500.0,
                    "t",
                    -1.25,
                    "count",
                    7.0,
                    "serial",
                    9_007_199_254_740_993L,
                    "name",
                    " Ashcombe ",
                    "items",
                    List.of(Map.of("level", 2.0), Map.of("level", 4.0)),
                    "battery",
                    80.0),
            Map.of("type", "reading", "eventTime", Instant.parse("2026-04-12T03:20:00Z")),
            Map.of("key", "cs-07", "facts", Map.of("orchard", "Ashcombe", "frostProne", true, "row", 4L)));

    private final ExpressionCompiler compiler = new ExpressionCompiler();

    private Object value(String source) throws ExpressionProblem {
        Outcome outcome = compiler.expression(source).evaluate(SCOPE);
        assertThat(outcome).as(outcome.toString()).isInstanceOf(Outcome.Value.class);
        return Plain.of(((Outcome.Value) outcome).value());
    }

    private String none(String source) throws ExpressionProblem {
        Outcome outcome = compiler.expression(source).evaluate(SCOPE);
        assertThat(outcome).as(outcome.toString()).isInstanceOf(Outcome.None.class);
        return ((Outcome.None) outcome).reason();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            convert(data.energy, 'W.h', 'kW.h')                     | 1.5
            convert(data.t, 'Cel', '[degF]')                        | 29.75
            convert(10, 'm/s', 'km/h')                              | 36
            convert(data.battery, '%', '1')                         | 0.8
            round(data.t, 1)                                        | -1.3
            round(1234.5, -2)                                       | 1200
            round(7, 0)                                             | 7
            round(convert(1.0, '[mi_i]', 'km'), 3)                  | 1.609
            """)
    void convertsAndRounds(String source, String value) throws Exception {
        assertThat(value(source)).hasToString(value);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '→', quoteCharacter = '~', textBlock = """
            data.count * 10                                         → 70
            10 * data.count - 1                                     → 69
            data.count / 2                                          → 3.5
            data.count % 2                                          → 1
            data.count + 1 == 8                                     → true
            data.count == 7 && data.count >= 7 && 8 > data.count    → true
            data.serial                                             → 9007199254740993
            data.serial > data.count                                → true
            device.facts.row * 2                                    → 8
            data.items.exists(item, item.level > 3)                 → true
            data.items.all(item, item.level > 3)                    → false
            size(data.items.filter(item, item.level > 3))           → 1
            data.name.trim().lowerAscii()                           → ashcombe
            device.facts.orchard in ['Ashcombe', 'Birkholt']        → true
            has(data.rain) ? data.rain : 0                          → 0
            data.t < 0.3 && device.facts.frostProne                 → true
            data.rain > 3 || data.t < 0                             → true
            data.t > 0 && data.rain > 3                             → false
            meta.eventTime > timestamp('2026-04-12T03:00:00Z')      → true
            meta.eventTime.getHours('Europe/Berlin')                → 5
            device.key.matches('^cs-[0-9]+$')                       → true
            'row ' + string(device.facts.row)                       → row 4
            """)
    void worksAsTheDocumentsSay(String source, String value) throws Exception {
        assertThat(value(source)).hasToString(value);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            convert(data.t, 'Cel', 'kW.h')   | `Cel` and `kW.h` measure different things
            convert(data.t, 'furlongs', 'm') | UCUM has no unit `furlongs`
            convert(data.gone, 'Cel', 'K')   | data.gone is not there
            round(data.t, 99)                | round() takes -15 to 15 digits, not 99
            data.name * 2                    | an operator does not work on the types it met
            """)
    void saysWhyThereIsNoValue(String source, String reason) throws Exception {
        assertThat(none(source)).contains(reason);
    }

    @Test
    void aWrongCallIsFoundBeforeAnyMessageComes() {
        assertThat(problem("convert(data.t, 'Cel')")).contains("convert");
        assertThat(problem("rond(data.t, 1)")).contains("rond");
    }

    private String problem(String source) {
        try {
            compiler.expression(source);
            throw new AssertionError("compiled");
        } catch (ExpressionProblem e) {
            return e.getMessage();
        }
    }
}
