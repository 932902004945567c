package org.holtra.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Each example of the documentation's table of functions gives what the table says. */
class DocumentedFunctionsTest {

    record Example(String source, String gives) {
        @Override
        public String toString() {
            return source;
        }
    }

    private static final Scope SCOPE = new Scope(
            Map.of(
                    "energy",
                    1500.0,
                    "t",
                    -1.26,
                    "raw",
                    "AQID",
                    "state",
                    2.0,
                    "wind",
                    Map.of("speed", 4.0, "gust", 7.5)),
            Map.of("eventTime", Instant.parse("2026-04-12T03:20:00Z")),
            Map.of("key", "cs-07", "facts", Map.of("orchard", "Ashcombe", "row", 4L)));

    private static final ExpressionCompiler COMPILER = new ExpressionCompiler(
            Map.of("pump-states", new LookupTable("pump-states", Map.of("1", "running", "2", "blocked"), "unknown")));

    static List<Example> examples() throws IOException {
        try (Stream<String> lines = Files.lines(Path.of("../docs/expressions.md"))) {
            return lines.filter(line -> line.matches("\\| `.*` \\| `.*` \\|.*"))
                    .map(line -> line.split("` \\| `|` \\|"))
                    .map(cells -> new Example(cells[0].substring(3), cells[1]))
                    .toList();
        }
    }

    @ParameterizedTest
    @MethodSource("examples")
    void givesWhatItsExampleSays(Example example) throws ExpressionProblem {
        Outcome outcome = COMPILER.expression(example.source).evaluate(SCOPE);

        assertThat(outcome).as(outcome.toString()).isInstanceOf(Outcome.Value.class);
        assertThat(Plain.of(((Outcome.Value) outcome).value())).hasToString(example.gives);
    }

    @Test
    void thereIsAnExampleOfEachFunction() throws IOException {
        Set<String> used = examples().stream()
                .map(one -> one.source.replaceAll("\\(.*", ""))
                .collect(Collectors.toSet());

        assertThat(used)
                .containsAll(OwnFunctions.all(Map.of()).stream()
                        .filter(function -> !function.ofValue())
                        .map(OwnFunction::name)
                        .toList());
        assertThat(used).contains("default");
    }
}
