package org.holtra.core.setup;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.shape.ShapeField;

/** Setups for tests, compiled from their text. */
public final class SetupSamples {

    private static final Kind ANY = new Kind() {
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

        @Override
        public List<ShapeField> shapeFields() {
            return List.of(ShapeField.text("path", text -> text));
        }
    };

    private static final SetupCompiler COMPILER = new SetupCompiler(List.of(ANY), new ExpressionCompiler());

    private SetupSamples() {}

    public static SetupCompiler compiler() {
        return COMPILER;
    }

    public static Setup compile(String yaml) {
        SetupCompiler.Result result = COMPILER.compile(yaml);
        assertThat(result.problems()).isEmpty();
        return result.setup().orElseThrow();
    }

    /** An inlet called {@code in}, of fields as a block or in braces. */
    public static Inlet inlet(String fields) {
        return compile(asInlet(fields)).inlets().get("in");
    }

    public static String asInlet(String fields) {
        String inner = fields.strip();
        String block = inner.startsWith("{")
                ? inner.substring(1, inner.length() - 1).replaceAll(", (?=[a-zA-Z]+: )(?![^{]*})", "\n")
                : inner;
        return "inlets:\n  in:\n    kind: any\n    at: {}\n" + block.indent(4);
    }
}
