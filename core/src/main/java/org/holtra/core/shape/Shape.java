package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/** The content of a lane's deliveries: a body, and what the outlet's kind has beside it, each with templates. */
public final class Shape {

    private final List<Text> texts;
    private final List<Named> named;
    private final String contentType;
    private final Body body;

    /** A text beside the body. */
    record Text(ShapeField field, Template template) {}

    /** Values by name beside the body. */
    record Named(ShapeField field, Tree.Fields values) {}

    /** @param contentType null for the one that goes with the body */
    Shape(List<Text> texts, List<Named> named, String contentType, Body body) {
        this.texts = texts;
        this.named = named;
        this.contentType = contentType;
        this.body = body;
    }

    /** Sends the data as they were read, as JSON. */
    public static Shape asRead() {
        return new Shape(List.of(), List.of(), null, new Body.Json(null));
    }

    /** The optional parts that vanish for a message, with the reason, in the order they are written. */
    public List<LeftOut> leftOut(Scope scope) {
        Absences absences = new Absences();
        named.forEach(one -> absences.look(one.values, scope, one.field.name()));
        absences.look(body.tree(), scope, "body");
        return absences.found();
    }

    /**
     * An optional part that vanishes.
     *
     * @param where in the shape, such as {@code body.battery}
     */
    public record LeftOut(String where, String why) {}

    public Content fill(Scope scope) throws ShapeFailure {
        Parts parts = new Parts();
        return new Content(
                texts.isEmpty() && named.isEmpty() ? Envelope.EMPTY : envelope(scope, parts),
                contentType == null ? body.contentType() : contentType,
                body.write(scope));
    }

    private Envelope envelope(Scope scope, Parts parts) throws ShapeFailure {
        Map<String, String> filled = new LinkedHashMap<>();
        for (Text one : texts) {
            String name = one.field.name();
            ShapeField.Writing writing = one.field.writing();
            filled.put(name, writing.whole(one.template.text(scope, name, writing::value)));
        }
        Map<String, List<Map.Entry<String, String>>> lists = new LinkedHashMap<>();
        for (Named one : named) {
            lists.put(one.field.name(), values(one, scope, parts));
        }
        return new Envelope(filled, lists);
    }

    private static List<Map.Entry<String, String>> values(Named named, Scope scope, Parts parts) throws ShapeFailure {
        String where = named.field.name();
        ShapeField.Writing writing = named.field.writing();
        List<Map.Entry<String, String>> values =
                new ArrayList<>(named.values.fields().size());
        for (Tree.Field one : named.values.fields()) {
            String name = one.name().text(scope, where, text -> text);
            Object value = one.fill(scope, where + "." + name, parts);
            if (value != Tree.ABSENT) {
                values.add(Map.entry(writing.name(name), writing.value(Plain.text(value))));
            }
        }
        return values;
    }
}
