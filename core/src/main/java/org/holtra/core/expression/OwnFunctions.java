package org.holtra.core.expression;

import static dev.cel.common.types.SimpleType.BYTES;
import static dev.cel.common.types.SimpleType.DOUBLE;
import static dev.cel.common.types.SimpleType.DYN;
import static dev.cel.common.types.SimpleType.INT;
import static dev.cel.common.types.SimpleType.STRING;

import dev.cel.common.types.CelType;
import dev.cel.common.types.ListType;
import dev.cel.common.values.CelByteString;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.unit.Units;

/** The functions that expressions have beside CEL's own, but for those on time. */
final class OwnFunctions {

    private static final int MOST_DIGITS = 15;

    private OwnFunctions() {}

    static List<OwnFunction> all(Map<String, LookupTable> tables) {
        List<OwnFunction> all = new ArrayList<>(List.of(
                function("convert", convert(DOUBLE), convert(INT)),
                function("round", round(DOUBLE), round(INT)),
                function(
                        "hex",
                        new OwnFunction.Overload(
                                STRING, List.of(BYTES), given -> HexFormat.of().formatHex(bytes(given[0])))),
                function("unhex", new OwnFunction.Overload(BYTES, List.of(STRING), given -> unhex((String) given[0]))),
                function(
                        "base64",
                        new OwnFunction.Overload(
                                STRING,
                                List.of(BYTES),
                                given -> Base64.getEncoder().encodeToString(bytes(given[0])))),
                function(
                        "unbase64",
                        new OwnFunction.Overload(BYTES, List.of(STRING), given -> unbase64((String) given[0]))),
                function(
                        "entries",
                        new OwnFunction.Overload(ListType.create(DYN), List.of(DYN), given -> entries(given[0]))),
                lookup(tables)));
        all.addAll(TimeFunctions.all());
        all.addAll(TextFunctions.all());
        return all;
    }

    static OwnFunction function(String name, OwnFunction.Overload... overloads) {
        return new OwnFunction(name, List.of(overloads), false);
    }

    private static OwnFunction.Overload convert(CelType number) {
        return new OwnFunction.Overload(
                DOUBLE,
                List.of(number, STRING, STRING),
                given -> Units.convert(((Number) given[0]).doubleValue(), (String) given[1], (String) given[2]));
    }

    private static OwnFunction.Overload round(CelType number) {
        return new OwnFunction.Overload(
                DOUBLE, List.of(number, INT), given -> round(((Number) given[0]).doubleValue(), (Long) given[1]));
    }

    private static double round(double value, long digits) {
        if (digits < -MOST_DIGITS || digits > MOST_DIGITS) {
            throw new IllegalArgumentException("round() takes -15 to 15 digits, not " + digits);
        }
        return Double.isFinite(value)
                ? BigDecimal.valueOf(value)
                        .setScale((int) digits, RoundingMode.HALF_UP)
                        .doubleValue()
                : value;
    }

    private static OwnFunction lookup(Map<String, LookupTable> tables) {
        return function(
                "lookup",
                new OwnFunction.Overload(
                        DYN, List.of(STRING, DYN), given -> looked(tables, (String) given[0], given[1], null)),
                new OwnFunction.Overload(
                        DYN,
                        List.of(STRING, DYN, DYN),
                        given -> looked(tables, (String) given[0], given[1], given[2])));
    }

    private static Object looked(Map<String, LookupTable> tables, String name, Object value, Object otherwise) {
        LookupTable table = tables.get(name);
        if (table == null) {
            throw new IllegalArgumentException("there is no lookup `" + name + "`");
        }
        String key = LookupTable.key(value);
        Object found = table.rows().get(key);
        if (found != null) {
            return found;
        }
        Object instead = otherwise == null ? table.otherwise() : otherwise;
        if (instead == null) {
            throw new IllegalArgumentException(
                    "table `" + name + "` has no row " + Plain.brief(value) + " and no default");
        }
        return instead;
    }

    private static byte[] bytes(Object given) {
        return ((CelByteString) given).toByteArray();
    }

    private static CelByteString unhex(String text) {
        try {
            return CelByteString.of(HexFormat.of().parseHex(text.replaceAll("[\\s:-]", "")));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(Plain.brief(text) + " is not hexadecimal");
        }
    }

    private static CelByteString unbase64(String text) {
        try {
            return CelByteString.of(
                    Base64.getDecoder().decode(text.replace('-', '+').replace('_', '/')));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(Plain.brief(text) + " is not base64");
        }
    }

    /** All values of an object as a list of {@code {name, value}}; names of fields inside others are joined with dots. */
    private static List<Map<String, Object>> entries(Object given) {
        if (!(given instanceof Map<?, ?> map)) {
            throw new IllegalArgumentException("entries() takes an object, not " + Plain.brief(given));
        }
        List<Map<String, Object>> found = new ArrayList<>();
        flatten("", map, found);
        return found;
    }

    private static void flatten(String prefix, Map<?, ?> map, List<Map<String, Object>> found) {
        map.forEach((name, value) -> {
            if (value instanceof Map<?, ?> inner) {
                flatten(prefix + name + ".", inner, found);
            } else {
                Map<String, Object> entry = LinkedHashMap.newLinkedHashMap(2);
                entry.put("name", prefix + name);
                entry.put("value", value);
                found.add(entry);
            }
        });
    }
}
