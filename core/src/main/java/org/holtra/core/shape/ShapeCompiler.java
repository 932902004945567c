package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.expression.Plain;
import org.holtra.core.text.Nearest;

/**
 * Compiles a shape, and goes on after an error so that all of them are found at once.
 *
 * <p>In the body's tree an object with {@code $each} or {@code $when} is a part that repeats or is there at times, with
 * its content under {@code $give}; a name that ends in {@code ?} is one that vanishes with the field it needs. Names that
 * really begin so or end so are written with the sign doubled.
 */
public final class ShapeCompiler {

    /** A wrong template, at its place in the shape as a JSON pointer (RFC 6901). */
    public record Misfit(String pointer, String what, ExpressionProblem problem) {}

    private static final String EACH = "$each";
    private static final String AS = "$as";
    private static final String WHEN = "$when";
    private static final String GIVE = "$give";
    private static final Set<String> SIGNS = Set.of(EACH, AS, WHEN, GIVE);
    private static final Set<String> TAKEN = Set.of("data", "meta", "device");

    /** What every shape may have, whatever the kind of its outlet. */
    private static final Set<String> COMMON = Set.of("body", "format", "contentType", "csv");

    private final ExpressionCompiler expressions;
    private final List<ShapeField> beside;
    private final List<Misfit> misfits = new ArrayList<>();
    private final Map<FieldPath, String> fields = new LinkedHashMap<>();

    /** @param beside what the kind of the shape's outlet has beside the body */
    public ShapeCompiler(ExpressionCompiler expressions, List<ShapeField> beside) {
        this.expressions = expressions;
        this.beside = beside;
    }

    /**
     * @param shape {@code body}, {@code format}, {@code contentType}, {@code csv}, and what the kind of its outlet has beside
     *     the body; all optional
     */
    public Shape compile(Map<?, ?> shape) {
        List<Shape.Text> texts = new ArrayList<>();
        List<Shape.Named> named = new ArrayList<>();
        for (ShapeField field : beside) {
            Object said = shape.get(field.name());
            String pointer = "/" + field.name();
            if (said != null && field.isNamed()) {
                named.add(new Shape.Named(field, named(said, pointer)));
            } else if (said != null) {
                texts.add(new Shape.Text(field, text(said, pointer)));
            }
        }
        shape.keySet().forEach(name -> known(String.valueOf(name)));
        return new Shape(
                List.copyOf(texts),
                List.copyOf(named),
                shape.get("contentType") instanceof String type ? type : null,
                body(shape));
    }

    /** Those parts of a shape that it may have whatever the kind of its outlet. */
    public static Map<String, Object> common(Map<String, Object> shape) {
        Map<String, Object> common = new LinkedHashMap<>(shape);
        common.keySet().retainAll(COMMON);
        return common;
    }

    private void known(String name) {
        Set<String> all = new TreeSet<>(COMMON);
        beside.forEach(field -> all.add(field.name()));
        if (!all.contains(name)) {
            wrong(
                    "/" + escaped(name),
                    "`" + name + "` is no part of a shape for this outlet"
                            + Nearest.of(name, all)
                                    .map(near -> "; did you mean `" + near + "`?")
                                    .orElse("; there are " + String.join(", ", all)));
        }
    }

    private Template text(Object said, String pointer) {
        if (said instanceof Map || said instanceof List) {
            wrong(pointer, "a text is wanted here, not an object or a list");
            return null;
        }
        return template(String.valueOf(said), pointer, expressions);
    }

    /** The fields that the shapes compiled so far read, with the place where each is read first, as a JSON pointer. */
    public Map<FieldPath, String> fields() {
        return Collections.unmodifiableMap(fields);
    }

    /** What was wrong in the shapes compiled so far. */
    public List<Misfit> misfits() {
        return List.copyOf(misfits);
    }

    private Body body(Map<?, ?> shape) {
        Object source = shape.get("body");
        String format = shape.get("format") instanceof String text ? text : "json";
        Tree tree = shape.containsKey("body") && !format.equals("text") ? tree(source, "/body", expressions) : null;
        return switch (format) {
            case "cbor" -> new Body.Cbor(tree);
            case "text" -> {
                if (source != null && !(source instanceof String)) {
                    wrong("/body", "a text's body is one template, not an object or a list");
                }
                yield new Body.Text(template(source == null ? "${data}" : source.toString(), "/body", expressions));
            }
            case "form" -> {
                if (tree != null && !(tree instanceof Tree.Fields)) {
                    wrong("/body", "a form's body is an object: names with values");
                }
                yield new Body.Form(tree);
            }
            case "csv" -> csv(shape, tree);
            case "none" -> {
                if (tree != null) {
                    wrong("/body", "there is a body, but its format is `none`");
                }
                yield new Body.None();
            }
            default -> new Body.Json(tree);
        };
    }

    private Body csv(Map<?, ?> shape, Tree tree) {
        Map<?, ?> how = shape.get("csv") instanceof Map<?, ?> map ? map : Map.of();
        String separator = how.get("separator") instanceof String text && text.length() == 1 ? text : ",";
        return new Body.Csv(tree, columns(tree), !Boolean.FALSE.equals(how.get("header")), separator.charAt(0));
    }

    /** Names that are known before any message: a column of them stays even where it has no value. */
    private List<String> columns(Tree tree) {
        return switch (tree) {
            case Tree.Fields(List<Tree.Field> fields)
            when fields.stream()
                    .allMatch(field -> field.name() != null && field.name().fixed()) -> {
                List<String> names = new ArrayList<>();
                for (Tree.Field field : fields) {
                    if (field.value() instanceof Tree.Fields || field.value() instanceof Tree.Items) {
                        wrong("/body", "a CSV line has values, not objects or lists, inside it");
                    }
                    names.add(field.name().fixedText());
                }
                yield names;
            }
            case Tree.Items(List<Tree> items) when !items.isEmpty() -> columns(items.getFirst());
            case Tree.Each(Expression list, String as, Tree give) -> columns(give);
            case Tree.When(Condition condition, Tree give) -> columns(give);
            case null, default -> List.of();
        };
    }

    private Tree.Fields named(Object named, String pointer) {
        if (named instanceof Map<?, ?> map) {
            map.forEach((name, value) -> {
                if (value instanceof Map || value instanceof List) {
                    wrong(pointer + "/" + escaped(name), "a text is wanted here, not an object or a list");
                }
            });
            return fields(map, pointer, expressions);
        }
        wrong(pointer, "names with values are wanted here");
        return new Tree.Fields(List.of());
    }

    private Tree tree(Object value, String pointer, ExpressionCompiler in) {
        return switch (value) {
            case Map<?, ?> map ->
                map.keySet().stream().anyMatch(SIGNS::contains) ? part(map, pointer, in) : fields(map, pointer, in);
            case List<?> list -> {
                List<Tree> items = new ArrayList<>(list.size());
                for (int at = 0; at < list.size(); at++) {
                    items.add(tree(list.get(at), pointer + "/" + at, in));
                }
                yield new Tree.Items(items);
            }
            case String text -> new Tree.Text(template(text, pointer, in));
            case null -> new Tree.Constant(null);
            default -> new Tree.Constant(Plain.of(value));
        };
    }

    private Tree.Fields fields(Map<?, ?> map, String pointer, ExpressionCompiler in) {
        List<Tree.Field> fields = new ArrayList<>(map.size());
        map.forEach((name, value) -> {
            String at = pointer + "/" + escaped(name);
            String written = name.toString();
            boolean optional = written.endsWith("?") && !written.endsWith("??");
            if (written.endsWith("?")) {
                written = written.substring(0, written.length() - 1);
            }
            if (written.startsWith("$$") && !written.startsWith("$${")) {
                written = written.substring(1);
            }
            fields.add(new Tree.Field(template(written, at, in), tree(value, at, in), optional));
        });
        return new Tree.Fields(List.copyOf(fields));
    }

    /** A part that repeats, or is there at times. */
    private Tree part(Map<?, ?> map, String pointer, ExpressionCompiler in) {
        for (Object name : map.keySet()) {
            if (!SIGNS.contains(name)) {
                wrong(
                        pointer + "/" + escaped(name),
                        "`" + name + "` stands beside " + (map.containsKey(EACH) ? EACH : WHEN)
                                + "; what is to be sent belongs below " + GIVE);
            }
        }
        if (!map.containsKey(GIVE)) {
            wrong(pointer, GIVE + " is missing: what is to be sent");
        }
        if (!map.containsKey(EACH)) {
            if (!map.containsKey(WHEN)) {
                wrong(pointer, GIVE + " needs " + EACH + " or " + WHEN + " beside it");
                return new Tree.Constant(null);
            }
            return when(map, tree(map.get(GIVE), pointer + "/" + GIVE, in), pointer, in);
        }
        String as = map.get(AS) == null ? "item" : map.get(AS).toString();
        if (!as.matches("[a-z][A-Za-z0-9]*") || TAKEN.contains(as)) {
            wrong(
                    pointer + "/" + AS,
                    "`" + as + "` cannot name an element: letters and digits, and not data, meta or device");
            return new Tree.Constant(null);
        }
        Expression list = null;
        try {
            list = in.expression(String.valueOf(map.get(EACH)));
        } catch (ExpressionProblem problem) {
            misfits.add(new Misfit(pointer + "/" + EACH, problem.getMessage(), problem));
        }
        ExpressionCompiler inside = in.withVariable(as);
        Tree give = tree(map.get(GIVE), pointer + "/" + GIVE, inside);
        return new Tree.Each(list, as, map.containsKey(WHEN) ? when(map, give, pointer, inside) : give);
    }

    private Tree when(Map<?, ?> map, Tree give, String pointer, ExpressionCompiler in) {
        try {
            return new Tree.When(in.condition(String.valueOf(map.get(WHEN))), give);
        } catch (ExpressionProblem problem) {
            misfits.add(new Misfit(pointer + "/" + WHEN, problem.getMessage(), problem));
            return give;
        }
    }

    private void wrong(String pointer, String what) {
        misfits.add(new Misfit(pointer, what, null));
    }

    /** Null for a template that is wrong: the shape it stands in is never used then, since its misfit is known. */
    private Template template(String source, String pointer, ExpressionCompiler in) {
        try {
            Template template = Template.compile(source, in);
            template.fields().forEach(field -> fields.putIfAbsent(field, pointer));
            return template;
        } catch (ExpressionProblem problem) {
            misfits.add(new Misfit(pointer, problem.getMessage(), problem));
            return null;
        }
    }

    private static String escaped(Object name) {
        return name.toString().replace("~", "~0").replace("/", "~1");
    }
}
