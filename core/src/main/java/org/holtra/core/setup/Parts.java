package org.holtra.core.setup;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeCompiler;

/**
 * Compiles the parts of one setup file and collects what is wrong in them. What has the wrong form is passed over here,
 * for the schema has told of it.
 */
final class Parts {

    private final SetupDocument document;
    private final ExpressionCompiler expressions;
    private final List<SetupProblem> problems = new ArrayList<>();

    Parts(SetupDocument document, ExpressionCompiler expressions) {
        this.document = document;
        this.expressions = expressions;
    }

    List<SetupProblem> problems() {
        return problems;
    }

    Setup compile(Map<?, ?> root) {
        Map<String, Inlet> inlets = new LinkedHashMap<>();
        each(root.get("inlets"), (name, fields) -> inlets.put(name, inlet(name, fields)));
        Map<String, Outlet> outlets = new LinkedHashMap<>();
        each(
                root.get("outlets"),
                (name, fields) -> outlets.put(name, new Outlet(name, text(fields, "kind"), block(fields.get("to")))));
        Map<String, Lane> lanes = new LinkedHashMap<>();
        each(
                root.get("lanes"),
                (name, fields) -> lanes.put(name, lane(name, fields, inlets.keySet(), outlets.keySet())));
        return new Setup(0, inlets, outlets, lanes);
    }

    private Inlet inlet(String name, Map<String, Object> fields) {
        String at = "/inlets/" + name;
        return new Inlet(
                name,
                text(fields, "kind"),
                block(fields.get("at")),
                expression(fields, "device", at),
                expression(fields, "time", at),
                expression(fields, "sort", at),
                condition(fields, "simulated", at));
    }

    private Lane lane(String name, Map<String, Object> fields, Set<String> inlets, Set<String> outlets) {
        String at = "/lanes/" + name;
        Set<String> from = new LinkedHashSet<>();
        if (fields.get("inlets") instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                String inlet = String.valueOf(list.get(i));
                from.add(inlet);
                known("inlet", inlet, inlets, at + "/inlets/" + i);
            }
        }
        String outlet = text(fields, "outlet");
        if (outlet != null) {
            known("outlet", outlet, outlets, at + "/outlet");
        }
        return new Lane(
                name,
                from,
                condition(fields, "pick", at),
                shape(block(fields.get("shape")), at + "/shape"),
                outlet,
                retry(block(fields.get("retry"))));
    }

    private void known(String what, String name, Set<String> names, String pointer) {
        if (!names.contains(name)) {
            String hint = Nearest.of(name, names)
                    .map(near -> "; did you mean `" + near + "`?")
                    .orElse(names.isEmpty() ? "; there are none" : "; there are " + String.join(", ", names));
            problems.add(document.problem(pointer, "there is no " + what + " `" + name + "`" + hint));
        }
    }

    private Shape shape(Map<String, Object> fields, String pointer) {
        ShapeCompiler compiler = new ShapeCompiler(expressions);
        Shape shape = compiler.compile(fields);
        compiler.misfits().forEach(misfit -> wrong(pointer + misfit.pointer(), misfit.problem()));
        return shape;
    }

    private static RetrySchedule retry(Map<String, Object> fields) {
        RetrySchedule usual = RetrySchedule.USUAL;
        return new RetrySchedule(
                span(fields, "first", usual.first()),
                fields.get("factor") instanceof Number factor ? factor.doubleValue() : usual.factor(),
                span(fields, "longest", usual.longest()),
                span(fields, "giveUpAfter", usual.giveUpAfter()));
    }

    private static Duration span(Map<String, Object> fields, String name, Duration usual) {
        String text = text(fields, name);
        if (text == null || !text.matches(Span.PATTERN)) {
            return usual;
        }
        return Span.parse(text);
    }

    private Expression expression(Map<String, Object> fields, String name, String pointer) {
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

    private Condition condition(Map<String, Object> fields, String name, String pointer) {
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

    private void wrong(String pointer, ExpressionProblem problem) {
        problems.add(document.problem(pointer, problem.getMessage() + "\n" + problem.picture()));
    }

    private interface Part {
        void take(String name, Map<String, Object> fields);
    }

    private static void each(Object named, Part part) {
        block(named).forEach((name, fields) -> part.take(name, block(fields)));
    }

    private static String text(Map<String, Object> fields, String name) {
        return fields.get(name) instanceof String text ? text : null;
    }

    private static Map<String, Object> block(Object value) {
        if (!(value instanceof Map<?, ?> map)) {
            return Map.of();
        }
        Map<String, Object> fields = LinkedHashMap.newLinkedHashMap(map.size());
        map.forEach((name, field) -> fields.put(name.toString(), field));
        return fields;
    }
}
