package org.holtra.core.expression;

import com.google.common.primitives.UnsignedLong;
import com.google.protobuf.ByteString;
import dev.cel.common.values.CelByteString;
import dev.cel.common.values.NullValue;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What expressions give, as plain values that JSON and text know, and as text. */
public final class Plain {

    private static final double EXACT_IN_DOUBLE = 1L << 53;
    private static final int BRIEF = 60;

    private Plain() {}

    /**
     * Maps, lists, strings, booleans, numbers and null. Instants become RFC 3339 text, durations seconds as CEL writes
     * them, bytes base64. A double that is a whole number becomes one, since JSON does not tell the two apart but many
     * receivers do.
     */
    public static Object of(Object value) {
        return switch (value) {
            case null -> null;
            case NullValue ignored -> null;
            case com.google.protobuf.NullValue ignored -> null;
            case Double number -> number(number);
            case UnsignedLong number -> number.bigIntegerValue();
            case Map<?, ?> map -> {
                Map<String, Object> fields = LinkedHashMap.newLinkedHashMap(map.size());
                map.forEach((name, field) -> fields.put(text(name), of(field)));
                yield fields;
            }
            case List<?> list -> {
                List<Object> items = new ArrayList<>(list.size());
                list.forEach(item -> items.add(of(item)));
                yield items;
            }
            case Instant instant -> instant.toString();
            case Duration duration ->
                BigDecimal.valueOf(duration.toNanos(), 9).stripTrailingZeros().toPlainString() + "s";
            case CelByteString bytes -> Base64.getEncoder().encodeToString(bytes.toByteArray());
            case ByteString bytes -> Base64.getEncoder().encodeToString(bytes.toByteArray());
            case Optional<?> optional -> of(optional.orElse(null));
            case String text -> text;
            case Boolean bool -> bool;
            case Number number -> number;
            default -> value.toString();
        };
    }

    private static Object number(double number) {
        if (number == Math.rint(number) && Math.abs(number) <= EXACT_IN_DOUBLE) {
            return (long) number;
        }
        return number;
    }

    /** As text joined into other text: strings as they are, null as nothing. */
    public static String text(Object value) {
        Object plain = of(value);
        return plain == null ? "" : plain.toString();
    }

    /** Short, for a sentence: strings in quotes, long ones cut, control characters as dots. */
    public static String brief(Object value) {
        Object plain = of(value);
        String text = switch (plain) {
            case null -> "null";
            case String string -> '"' + string + '"';
            case Map<?, ?> map -> "an object of " + map.size() + " fields";
            case List<?> list -> "a list of " + list.size();
            default -> plain.toString();
        };
        String visible = text.replaceAll("\\p{Cntrl}", "·");
        return visible.length() <= BRIEF ? visible : visible.substring(0, BRIEF) + "…";
    }
}
