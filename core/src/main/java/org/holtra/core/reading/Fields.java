package org.holtra.core.reading;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** The fields of a message's data as a flat list: names of fields inside others are joined with dots. */
public final class Fields {

    private static final List<String> LATITUDES = List.of("latitude", "lat");
    private static final List<String> LONGITUDES = List.of("longitude", "lon", "lng", "long");
    private static final int DEEPEST = 5;
    private static final int MOST = 200;
    private static final int LONGEST_NAME = 120;
    private static final int LONGEST_TEXT = 200;

    private Fields() {}

    /** Numbers, texts, and true or false; lists, nulls and what is beyond the bounds are left out. */
    public static Map<String, Object> flat(Object data) {
        Map<String, Object> flat = new LinkedHashMap<>();
        add("", data, DEEPEST, flat);
        return flat;
    }

    /** The other way: fields with dots in their names become objects inside objects. */
    public static Map<String, Object> nested(Map<String, Object> flat) {
        Map<String, Object> nested = new LinkedHashMap<>();
        flat.forEach((name, value) -> put(nested, name, value));
        return nested;
    }

    @SuppressWarnings("unchecked")
    private static void put(Map<String, Object> into, String name, Object value) {
        int dot = name.indexOf('.');
        Object inner = dot < 0
                ? null
                : into.computeIfAbsent(name.substring(0, dot), fresh -> new LinkedHashMap<String, Object>());
        if (inner instanceof Map<?, ?> map) {
            put((Map<String, Object>) map, name.substring(dot + 1), value);
        } else {
            into.put(name, value);
        }
    }

    /**
     * Where the device is, if it says so: {@code latitude} and {@code longitude}, or {@code lat} and {@code lon},
     * {@code lng} or {@code long}, side by side at whatever depth; in degrees (WGS 84). Empty if it does not.
     */
    public static Map<String, Object> position(Map<String, Object> flat) {
        for (Map.Entry<String, Object> field : flat.entrySet()) {
            String beside = field.getKey().substring(0, field.getKey().lastIndexOf('.') + 1);
            if (LATITUDES.contains(field.getKey().substring(beside.length())) && degrees(field.getValue(), 90)) {
                for (String name : LONGITUDES) {
                    Object longitude = flat.get(beside + name);
                    if (degrees(longitude, 180)) {
                        return Map.of("latitude", field.getValue(), "longitude", longitude);
                    }
                }
            }
        }
        return Map.of();
    }

    private static boolean degrees(Object value, double most) {
        return value instanceof Number number && Math.abs(number.doubleValue()) <= most;
    }

    private static void add(String name, Object value, int deeper, Map<String, Object> flat) {
        switch (value) {
            case Map<?, ?> map
            when deeper > 0 ->
                map.forEach((key, field) ->
                        add(name.isEmpty() ? key.toString() : name + "." + key, field, deeper - 1, flat));
            case Number number
            when storable(name, flat) && Double.isFinite(number.doubleValue()) -> flat.put(name, number);
            case Boolean bool when storable(name, flat) -> flat.put(name, bool);
            case String text
            when storable(name, flat) && text.length() <= LONGEST_TEXT && clean(text) -> flat.put(name, text);
            case null, default -> {}
        }
    }

    private static boolean storable(String name, Map<String, Object> flat) {
        return !name.isEmpty() && name.length() <= LONGEST_NAME && flat.size() < MOST && clean(name);
    }

    /** What the store can hold as text: no zero characters, no halves of surrogate pairs. */
    private static boolean clean(String text) {
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == 0) {
                return false;
            }
            if (Character.isSurrogate(c)) {
                boolean pair = Character.isHighSurrogate(c)
                        && i + 1 < text.length()
                        && Character.isLowSurrogate(text.charAt(i + 1));
                if (!pair) {
                    return false;
                }
                i++;
            }
        }
        return true;
    }
}
