package org.holtra.core.reading.codec;

import java.util.LinkedHashMap;
import java.util.Map;

/** The name of a field; dots make objects inside objects. */
final class FieldName {

    private final String text;
    private final String[] parts;

    FieldName(String text) {
        this.text = text;
        this.parts = text.split("\\.");
    }

    void put(Map<String, Object> fields, Object value) {
        Map<String, Object> at = fields;
        for (int i = 0; i < parts.length - 1; i++) {
            at = inner(at, parts[i]);
        }
        at.put(parts[parts.length - 1], value);
    }

    @SuppressWarnings("unchecked") // a codec's own maps, of which all objects inside are made here
    private static Map<String, Object> inner(Map<String, Object> fields, String name) {
        return (Map<String, Object>) fields.compute(
                name, (key, there) -> there instanceof Map<?, ?> ? there : new LinkedHashMap<String, Object>());
    }

    /** Null if it is not there. */
    Object get(Map<?, ?> fields) {
        Object at = fields;
        for (String part : parts) {
            if (!(at instanceof Map<?, ?> map)) {
                return null;
            }
            at = map.get(part);
        }
        return at;
    }

    @Override
    public String toString() {
        return text;
    }
}
