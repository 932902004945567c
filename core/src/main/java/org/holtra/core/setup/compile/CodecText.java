package org.holtra.core.setup.compile;

import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.setup.document.SetupProblem;

/** A codec by itself, as it stands in a file or an editor: the text of a script, or a layout in YAML. */
public final class CodecText {

    /** @param codec present only if there are no problems */
    public record Result(List<SetupProblem> problems, Optional<Codec> codec) {}

    private static final String AROUND = "models:\n  m:\n    codec:\n      layout:\n";
    private static final int LINES_AROUND = 4;
    private static final int INDENT = 8;
    private static final String PLACE = "models.m.codec.layout";

    private CodecText() {}

    public static Result script(String source) {
        return new Result(List.of(), Optional.of(new Script(source)));
    }

    /** Problems stand at the lines of this text. */
    public static Result layout(String yaml) {
        SetupCompiler.Result result =
                new SetupCompiler(List.of(), new ExpressionCompiler()).compile(AROUND + yaml.indent(INDENT));
        List<SetupProblem> problems = result.problems().stream()
                .map(problem -> new SetupProblem(
                        Math.max(1, problem.line() - LINES_AROUND),
                        Math.max(1, problem.column() - INDENT),
                        problem.where().replace(PLACE + ".", "").replace(PLACE, ""),
                        problem.what()))
                .toList();
        return new Result(
                problems, result.setup().map(setup -> setup.models().get("m").codec()));
    }
}
