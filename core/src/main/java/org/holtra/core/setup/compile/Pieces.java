package org.holtra.core.setup.compile;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.text.DurationText;

/**
 * Takes the smallest pieces out of a setup file and compiles them, collecting what is wrong. What has the wrong form is
 * passed over here, for the schema has told of it.
 */
public final class Pieces {

    private final SetupDocument document;
    private final ExpressionCompiler expressions;
    private final List<SetupProblem> problems;

    Pieces(SetupDocument document, ExpressionCompiler expressions) {
        this(document, expressions, new ArrayList<>());
    }

    private Pieces(SetupDocument document, ExpressionCompiler expressions, List<SetupProblem> problems) {
        this.document = document;
        this.expressions = expressions;
        this.problems = problems;
    }

    /** The same, whose expressions see a variable more; what is wrong is collected here. */
    Pieces withVariable(String name) {
        return new Pieces(document, expressions.withVariable(name), problems);
    }

    List<SetupProblem> problems() {
        return problems;
    }

    ExpressionCompiler expressions() {
        return expressions;
    }

    Expression expression(Map<String, Object> fields, String name, String pointer) {
        String source = text(fields, name);
        if (source == null) {
            return null;
        }
        try {
            return expressions.expression(source);
        } catch (ExpressionProblem problem) {
            wrong(pointer + "/" + name, problem);
            return null;
        }
    }

    /** All expressions of a block, by name. */
    Map<String, Expression> expressions(Object block, String pointer) {
        Map<String, Object> sources = SetupDocument.block(block);
        Map<String, Expression> compiled = new LinkedHashMap<>();
        sources.keySet().forEach(name -> {
            Expression expression = expression(sources, name, pointer);
            if (expression != null) {
                compiled.put(name, expression);
            }
        });
        return compiled;
    }

    /** All conditions of a block, by name. */
    Map<String, Condition> conditions(Object block, String pointer) {
        Map<String, Object> sources = SetupDocument.block(block);
        Map<String, Condition> compiled = new LinkedHashMap<>();
        sources.keySet().forEach(name -> {
            Condition condition = condition(sources, name, pointer);
            if (condition != null) {
                compiled.put(name, condition);
            }
        });
        return compiled;
    }

    Condition condition(Map<String, Object> fields, String name, String pointer) {
        Object source = fields.get(name);
        if (!(source instanceof String) && !(source instanceof Boolean)) {
            return null;
        }
        try {
            return expressions.condition(source.toString());
        } catch (ExpressionProblem problem) {
            wrong(pointer + "/" + name, problem);
            return null;
        }
    }

    void wrong(String pointer, ExpressionProblem problem) {
        wrong(pointer, problem.getMessage() + "\n" + problem.picture());
    }

    void wrong(String pointer, String what) {
        problems.add(document.problem(pointer, what));
    }

    static Duration span(Map<String, Object> fields, String name, Duration usual) {
        String text = text(fields, name);
        return text == null || !text.matches(DurationText.PATTERN) ? usual : DurationText.parse(text);
    }

    static String text(Map<String, Object> fields, String name) {
        return fields.get(name) instanceof String text ? text : null;
    }

    /** Whether a part says that it is closed. */
    static boolean closed(Map<String, Object> fields) {
        return "closed".equals(fields.get("state"));
    }

    static Double number(Map<String, Object> fields, String name) {
        return fields.get(name) instanceof Number number ? (Double) number.doubleValue() : null;
    }

    /** The fields of a block that have a value. */
    static Map<String, Object> filled(Object value) {
        Map<String, Object> fields = SetupDocument.block(value);
        fields.values().removeIf(field -> field == null);
        return fields;
    }

    interface Part {
        void take(String name, Map<String, Object> fields);
    }

    static void each(Object named, Part part) {
        SetupDocument.block(named).forEach((name, fields) -> part.take(name, SetupDocument.block(fields)));
    }
}
