package org.holtra.core.setup.schema;

import com.networknt.schema.Error;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import org.holtra.core.text.DurationText;
import org.holtra.core.text.Nearest;
import tools.jackson.databind.JsonNode;

/** Says what a schema's error means for the person who wrote the file. */
public final class SchemaWording {

    private final JsonNode document;

    /** @param document the schema the errors come from */
    SchemaWording(JsonNode document) {
        this.document = document;
    }

    SetupSchema.Misfit misfit(Error error) {
        String pointer = pointer(error);
        JsonNode rule = error.getSchemaNode();
        return switch (error.getKeyword()) {
            case "additionalProperties", "unevaluatedProperties" ->
                new SetupSchema.Misfit(pointer + "/" + error.getProperty(), unknown(error));
            case "required" -> new SetupSchema.Misfit(pointer, "`" + error.getProperty() + "` is missing");
            case "enum" -> new SetupSchema.Misfit(pointer, shown(error) + " is not one of " + words(rule));
            case "type" -> new SetupSchema.Misfit(pointer, "this should be " + type(rule) + ", not " + shown(error));
            case "pattern" ->
                new SetupSchema.Misfit(pointer, shown(error) + " is not written right: " + patternHint(error));
            case "minItems" -> new SetupSchema.Misfit(pointer, "the list is empty, at least one is wanted");
            case "minimum", "exclusiveMinimum" ->
                new SetupSchema.Misfit(pointer, shown(error) + " is too small, the least is " + rule);
            case "maximum" -> new SetupSchema.Misfit(pointer, shown(error) + " is too large, the most is " + rule);
            case "propertyNames" ->
                new SetupSchema.Misfit(
                        pointer,
                        "`" + error.getProperty()
                                + "` is no name: use lower-case letters, digits and dashes, beginning with a letter");
            default -> new SetupSchema.Misfit(pointer, error.getMessage());
        };
    }

    private static String pointer(Error error) {
        StringBuilder pointer = new StringBuilder();
        var path = error.getInstanceLocation();
        for (int at = 0; at < path.getNameCount(); at++) {
            pointer.append('/')
                    .append(path.getElement(at).toString().replace("~", "~0").replace("/", "~1"));
        }
        return pointer.toString();
    }

    private String unknown(Error error) {
        String name = error.getProperty();
        List<String> known = knownBeside(error);
        return "nothing here is called `" + name + "`"
                + Nearest.of(name, known)
                        .map(near -> "; did you mean `" + near + "`?")
                        .or(() -> known.isEmpty()
                                ? Optional.empty()
                                : Optional.of("; known are " + String.join(", ", known)))
                        .orElse("");
    }

    /** The names the schema knows at the place where it met one that it does not. */
    private List<String> knownBeside(Error error) {
        String rule = error.getSchemaLocation().getFragment().toString();
        JsonNode properties =
                document.at(rule.substring(0, rule.lastIndexOf('/'))).path("properties");
        return List.copyOf(properties.propertyNames());
    }

    private static String words(JsonNode values) {
        return StreamSupport.stream(values.spliterator(), false)
                .map(JsonNode::asString)
                .collect(Collectors.joining(", "));
    }

    private static String type(JsonNode type) {
        List<String> names = new ArrayList<>();
        if (type != null && type.isArray()) {
            type.forEach(one -> names.add(typeWord(one.asString())));
        } else if (type != null) {
            names.add(typeWord(type.asString()));
        }
        return String.join(" or ", names);
    }

    private static String typeWord(String type) {
        return switch (type) {
            case "object" -> "a block of named fields";
            case "array" -> "a list";
            case "string" -> "a text";
            case "integer" -> "a whole number";
            case "number" -> "a number";
            case "boolean" -> "true or false";
            default -> type;
        };
    }

    private static String shown(Error error) {
        JsonNode node = error.getInstanceNode();
        if (node == null || node.isNull()) {
            return "nothing";
        }
        return node.isObject() ? "a block of named fields" : node.isArray() ? "a list" : "`" + node.asString() + "`";
    }

    private static String patternHint(Error error) {
        String pattern =
                error.getSchemaNode() == null ? "" : error.getSchemaNode().asString();
        if (pattern.equals(DurationText.PATTERN)) {
            return "write a number and ms, s, m, h or d, such as 30s";
        }
        if (pattern.startsWith("^https?")) {
            return "an address begins with http:// or https://, and carries no ? or #";
        }
        return "it must match " + pattern;
    }
}
