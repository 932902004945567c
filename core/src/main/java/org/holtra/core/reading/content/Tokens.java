package org.holtra.core.reading.content;

import dev.cel.common.values.CelByteString;
import dev.cel.common.values.NullValue;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;

/**
 * A stream of tokens to plain values as expressions see them. Numbers are doubles, as CEL has it for JSON; whole numbers
 * that a double cannot hold exactly (beyond 2^53) stay exact as 64-bit integers, because identifiers and nanoseconds are
 * sent that way. Null is CEL's null: a Java null inside a map breaks every expression that touches it.
 */
final class Tokens {

    private static final long EXACT_IN_DOUBLE = 1L << 53;

    private Tokens() {}

    /** The value at the current token, up to its last token. */
    static Object value(JsonParser parser) throws UnreadableContent {
        JsonToken token = parser.currentToken();
        if (token == null) {
            throw new UnreadableContent("the body holds no value");
        }
        return switch (token) {
            case START_OBJECT -> object(parser);
            case START_ARRAY -> array(parser);
            case VALUE_STRING -> parser.getString();
            case VALUE_NUMBER_INT -> whole(parser);
            case VALUE_NUMBER_FLOAT -> number(parser);
            case VALUE_TRUE -> Boolean.TRUE;
            case VALUE_FALSE -> Boolean.FALSE;
            case VALUE_NULL -> NullValue.NULL_VALUE;
            case VALUE_EMBEDDED_OBJECT -> bytes(parser.getBinaryValue());
            default -> throw new UnreadableContent("unexpected " + parser.getString() + place(parser));
        };
    }

    /** CBOR's undefined comes as an object that is none. */
    private static Object bytes(byte[] bytes) {
        return bytes == null ? NullValue.NULL_VALUE : CelByteString.of(bytes);
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

    private static Object number(JsonParser parser) throws UnreadableContent {
        double number = parser.getDoubleValue();
        if (!Double.isFinite(number)) {
            throw new UnreadableContent("a number is beyond what a double holds, or is none" + place(parser));
        }
        return number;
    }

    private static Object whole(JsonParser parser) throws UnreadableContent {
        if (parser.getNumberType() == JsonParser.NumberType.INT) {
            return (double) parser.getIntValue();
        }
        BigInteger exact = parser.getBigIntegerValue();
        if (exact.bitLength() > 63) {
            return number(parser);
        }
        long value = exact.longValue();
        if (value > EXACT_IN_DOUBLE || value < -EXACT_IN_DOUBLE) {
            return value;
        }
        return (double) value;
    }

    static String place(JsonParser parser) {
        var at = parser.currentTokenLocation();
        return at.getLineNr() > 0
                ? " (line " + at.getLineNr() + ", column " + at.getColumnNr() + ")"
                : " (byte " + at.getByteOffset() + ")";
    }
}
