package org.holtra.cli;

import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.core.ObjectReadContext;
import tools.jackson.core.json.JsonFactory;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * Reads JSON into a tree by the streaming parser alone. A mapper does the same, but making one takes a third of a second,
 * which a command that prints a few lines should not cost.
 */
final class JsonTree {

    private static final JsonNodeFactory NODES = JsonNodeFactory.instance;

    private JsonTree() {}

    /** @throws tools.jackson.core.JacksonException if the bytes are not JSON */
    static JsonNode parse(byte[] bytes) {
        try (JsonParser parser = new JsonFactory().createParser(ObjectReadContext.empty(), bytes)) {
            parser.nextToken();
            return node(parser);
        }
    }

    private static JsonNode node(JsonParser parser) {
        JsonToken token = parser.currentToken();
        if (token == null) {
            return NODES.nullNode();
        }
        return switch (token) {
            case START_OBJECT -> {
                ObjectNode object = NODES.objectNode();
                while (parser.nextToken() != JsonToken.END_OBJECT) {
                    String name = parser.currentName();
                    parser.nextToken();
                    object.set(name, node(parser));
                }
                yield object;
            }
            case START_ARRAY -> {
                ArrayNode array = NODES.arrayNode();
                while (parser.nextToken() != JsonToken.END_ARRAY) {
                    array.add(node(parser));
                }
                yield array;
            }
            case VALUE_STRING -> NODES.stringNode(parser.getString());
            case VALUE_NUMBER_INT -> NODES.numberNode(parser.getBigIntegerValue());
            case VALUE_NUMBER_FLOAT -> NODES.numberNode(parser.getDecimalValue());
            case VALUE_TRUE -> NODES.booleanNode(true);
            case VALUE_FALSE -> NODES.booleanNode(false);
            default -> NODES.nullNode();
        };
    }
}
