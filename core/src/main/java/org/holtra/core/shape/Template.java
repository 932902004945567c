package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/**
 * Text with expressions in it, each as <code>${…}</code>. A template that is one expression and nothing else keeps the
 * type of its value; otherwise the parts are joined as text. <code>$${</code> stands for <code>${</code> itself.
 */
public final class Template {

    private sealed interface Part {
        record Text(String text) implements Part {}

        record Hole(Expression expression) implements Part {}
    }

    private final String source;
    private final List<Part> parts;

    private Template(String source, List<Part> parts) {
        this.source = source;
        this.parts = parts;
    }

    /** @throws ExpressionProblem if a hole is not closed or holds no valid expression */
    public static Template compile(String source, ExpressionCompiler compiler) throws ExpressionProblem {
        List<Part> parts = new ArrayList<>();
        for (TemplateScanner.Piece piece : TemplateScanner.scan(source)) {
            parts.add(piece.hole() ? new Part.Hole(compiler.expression(piece.text())) : new Part.Text(piece.text()));
        }
        return new Template(source, List.copyOf(parts));
    }

    String source() {
        return source;
    }

    /** The fields that its expressions read. */
    List<FieldPath> fields() {
        List<FieldPath> fields = new ArrayList<>();
        for (Part part : parts) {
            if (part instanceof Part.Hole(Expression expression)) {
                fields.addAll(expression.fields());
            }
        }
        return fields;
    }

    /** The text of a template that is fixed. */
    String fixedText() {
        StringBuilder joined = new StringBuilder();
        parts.forEach(part -> joined.append(part instanceof Part.Text(String text) ? text : ""));
        return joined.toString();
    }

    /** Whether it is the same for every message. */
    boolean fixed() {
        return parts.stream().allMatch(part -> part instanceof Part.Text);
    }

    /** @param where the place in the shape, for the failure */
    Object value(Scope scope, String where) throws ShapeFailure {
        if (parts.size() == 1 && parts.getFirst() instanceof Part.Hole(Expression expression)) {
            return Plain.of(evaluate(expression, scope, where));
        }
        return text(scope, where, UnaryOperator.identity());
    }

    /** As text, whatever it holds. */
    public String text(Scope scope, String where) throws ShapeFailure {
        return text(scope, where, UnaryOperator.identity());
    }

    /** @param encode applied to the value of each hole, not to the text around them */
    String text(Scope scope, String where, UnaryOperator<String> encode) throws ShapeFailure {
        if (parts.size() == 1 && parts.getFirst() instanceof Part.Text(String text)) {
            return text;
        }
        StringBuilder joined = new StringBuilder();
        for (Part part : parts) {
            switch (part) {
                case Part.Text(String text) -> joined.append(text);
                case Part.Hole(Expression expression) ->
                    joined.append(encode.apply(Plain.text(evaluate(expression, scope, where))));
            }
            BoundedBytes.check(joined.length());
        }
        return joined.toString();
    }

    static Object evaluate(Expression expression, Scope scope, String where) throws ShapeFailure {
        return switch (expression.evaluate(scope)) {
            case Outcome.Value(Double number)
            when !Double.isFinite(number) ->
                throw new ShapeFailure(
                        where, "`" + expression.source() + "` is " + number + ", which no format can carry", false);
            case Outcome.Value(Object value) -> value;
            case Outcome.None(String reason, boolean missing) -> throw new ShapeFailure(where, reason, missing);
        };
    }
}
