package org.holtra.core.reading;

import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.PointSpec;

/** Content that is a bare number or text: a field only by the name that its inlet gives it. */
final class PlainContent {

    private static final int LONGEST_NAME = 100;

    private PlainContent() {}

    /**
     * The content as an object with the one field; as it is where it has fields of its own.
     *
     * @param model of the device, whose points say what their fields are called in the data; or null
     * @throws UnreadableContent if the name cannot be told
     */
    static Object named(Inlet.PlainValue value, Scope scope, Model model) throws UnreadableContent {
        Optional<Object> bare = bare(scope.data());
        if (bare.isEmpty()) {
            return scope.data();
        }
        String field = name(value.field(), scope, "the field of the value");
        if (value.point() == null) {
            return Map.of(field, bare.get());
        }
        String point = name(value.point(), scope, "the point of the value");
        PointSpec known = model == null ? null : model.points().get(point);
        String inData = known == null ? point + "_" + field : known.fields().getOrDefault(field, point + "_" + field);
        return Fields.nested(Map.of(inData, bare.get()));
    }

    /** Text that is a number is that number. */
    private static Optional<Object> bare(Object content) {
        if (content instanceof Number || content instanceof String || content instanceof Boolean) {
            return Optional.of(content);
        }
        return content instanceof Map<?, ?> fields && fields.get("text") instanceof String text && isText(fields)
                ? Optional.of(fields.containsKey("value") ? fields.get("value") : text)
                : Optional.empty();
    }

    /** What reading plain text gives. */
    private static boolean isText(Map<?, ?> fields) {
        return fields.size() == 1 || fields.size() == 2 && fields.containsKey("value");
    }

    private static String name(Expression expression, Scope scope, String what) throws UnreadableContent {
        String name = switch (expression.evaluate(scope)) {
            case Outcome.Value(Object value) -> Plain.text(value).strip();
            case Outcome.None(String reason, boolean missing) ->
                throw new UnreadableContent(what + " could not be told: " + reason);
        };
        if (name.isEmpty() || name.length() > LONGEST_NAME) {
            throw new UnreadableContent(what + " is " + Plain.brief(name) + ", and a name was expected");
        }
        return name;
    }
}
