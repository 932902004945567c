package org.holtra.core.reading;

import dev.cel.common.values.NullValue;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.core.ObjectReadContext;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.core.exc.StreamReadException;
import tools.jackson.core.json.JsonFactory;

/**
 * JSON (RFC 8259) to plain values as expressions see them. Numbers are doubles, as CEL has it for JSON; whole numbers
 * that a double cannot hold exactly (beyond 2^53) stay exact as 64-bit integers, because identifiers and nanoseconds are
 * sent that way. Null is CEL's null: a Java null inside a map breaks every expression that touches it.
 */
public final class JsonFormat {

    private static final long EXACT_IN_DOUBLE = 1L << 53;

    private final JsonFactory factory = JsonFactory.builder()
            .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
            .enable(StreamReadFeature.USE_FAST_DOUBLE_PARSER)
            .build();

    /** @throws UnreadableContent if the bytes are not one JSON value, with the line and column */
    public Object parse(byte[] bytes) throws UnreadableContent {
        if (bytes.length == 0) {
            throw new UnreadableContent("the body is empty, JSON was expected");
        }
        try (JsonParser parser = factory.createParser(ObjectReadContext.empty(), bytes)) {
            parser.nextToken();
            Object value = value(parser);
            if (parser.nextToken() != null) {
                throw new UnreadableContent("more follows after the end of the JSON value" + place(parser));
            }
            return value;
        } catch (StreamReadException e) {
            throw new UnreadableContent("the body is not JSON: " + e.getOriginalMessage() + place(e));
        } catch (JacksonException e) {
            throw new UnreadableContent("the body is not JSON: " + e.getOriginalMessage());
        }
    }

    private static Object value(JsonParser parser) throws UnreadableContent {
        JsonToken token = parser.currentToken();
        if (token == null) {
            throw new UnreadableContent("the body holds no JSON value");
        }
        return switch (token) {
            case START_OBJECT -> object(parser);
            case START_ARRAY -> array(parser);
            case VALUE_STRING -> parser.getString();
            case VALUE_NUMBER_INT -> whole(parser);
            case VALUE_NUMBER_FLOAT -> parser.getDoubleValue();
            case VALUE_TRUE -> Boolean.TRUE;
            case VALUE_FALSE -> Boolean.FALSE;
            case VALUE_NULL -> NullValue.NULL_VALUE;
            default -> throw new UnreadableContent("the body is not JSON: unexpected " + parser.getString());
        };
    }

    private static Map<String, Object> object(JsonParser parser) throws UnreadableContent {
        Map<String, Object> fields = new LinkedHashMap<>();
        while (parser.nextToken() != JsonToken.END_OBJECT) {
            String name = parser.currentName();
            parser.nextToken();
            fields.put(name, value(parser));
        }
        return fields;
    }

    private static List<Object> array(JsonParser parser) throws UnreadableContent {
        List<Object> items = new ArrayList<>();
        while (parser.nextToken() != JsonToken.END_ARRAY) {
            items.add(value(parser));
        }
        return items;
    }

    private static Object whole(JsonParser parser) {
        if (parser.getNumberType() == JsonParser.NumberType.INT) {
            return (double) parser.getIntValue();
        }
        BigInteger exact = parser.getBigIntegerValue();
        if (exact.bitLength() > 63) {
            return exact.doubleValue();
        }
        long value = exact.longValue();
        if (value > EXACT_IN_DOUBLE || value < -EXACT_IN_DOUBLE) {
            return value;
        }
        return (double) value;
    }

    private static String place(JsonParser parser) {
        var at = parser.currentTokenLocation();
        return " (line " + at.getLineNr() + ", column " + at.getColumnNr() + ")";
    }

    private static String place(StreamReadException e) {
        var at = e.getLocation();
        return at == null ? "" : " (line " + at.getLineNr() + ", column " + at.getColumnNr() + ")";
    }
}
