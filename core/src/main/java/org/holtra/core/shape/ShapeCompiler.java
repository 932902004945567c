package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;

/** Compiles a shape, and goes on after an error so that all of them are found at once. */
public final class ShapeCompiler {

    /** A wrong template, at its place in the shape as a JSON pointer (RFC 6901). */
    public record Misfit(String pointer, ExpressionProblem problem) {}

    private final ExpressionCompiler expressions;
    private final List<Misfit> misfits = new ArrayList<>();

    public ShapeCompiler(ExpressionCompiler expressions) {
        this.expressions = expressions;
    }

    /** @param shape {@code path}, {@code query}, {@code headers}, {@code body}, all optional */
    public Shape compile(Map<?, ?> shape) {
        Object path = shape.get("path");
        Tree body = shape.containsKey("body") ? tree(shape.get("body"), "/body") : null;
        return new Shape(
                path == null ? null : template(path.toString(), "/path"),
                templates(shape.get("query"), "/query"),
                templates(shape.get("headers"), "/headers"),
                body);
    }

    /** What was wrong in the shapes compiled so far. */
    public List<Misfit> misfits() {
        return List.copyOf(misfits);
    }

    private Map<String, Template> templates(Object named, String pointer) {
        Map<String, Template> templates = new LinkedHashMap<>();
        if (named instanceof Map<?, ?> map) {
            map.forEach((name, value) ->
                    templates.put(name.toString(), template(String.valueOf(value), pointer + "/" + escaped(name))));
        }
        return templates;
    }

    private Tree tree(Object value, String pointer) {
        return switch (value) {
            case Map<?, ?> map -> {
                Map<String, Tree> fields = LinkedHashMap.newLinkedHashMap(map.size());
                map.forEach((name, field) -> fields.put(name.toString(), tree(field, pointer + "/" + escaped(name))));
                yield new Tree.Fields(fields);
            }
            case List<?> list -> {
                List<Tree> items = new ArrayList<>(list.size());
                for (int at = 0; at < list.size(); at++) {
                    items.add(tree(list.get(at), pointer + "/" + at));
                }
                yield new Tree.Items(items);
            }
            case String text -> new Tree.Text(template(text, pointer));
            case null -> new Tree.Constant(null);
            default -> new Tree.Constant(value);
        };
    }

    /** Null for a template that is wrong: the shape it stands in is never used then, since its misfit is known. */
    private Template template(String source, String pointer) {
        try {
            return Template.compile(source, expressions);
        } catch (ExpressionProblem problem) {
            misfits.add(new Misfit(pointer, problem));
            return null;
        }
    }

    private static String escaped(Object name) {
        return name.toString().replace("~", "~0").replace("/", "~1");
    }
}
