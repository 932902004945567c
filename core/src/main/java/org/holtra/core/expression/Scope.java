package org.holtra.core.expression;

import java.util.Map;
import java.util.TreeMap;

/**
 * What an expression sees.
 *
 * @param data what was sent
 * @param meta what the transport adds
 * @param device what is known of the device; empty where the message has none
 * @param units the UCUM codes of fields of the data that have one, by name, for telling values to people
 */
public record Scope(Object data, Map<String, ?> meta, Map<String, ?> device, Map<String, String> units) {

    public Scope(Object data, Map<String, ?> meta, Map<String, ?> device) {
        this(data, meta, device, Map.of());
    }

    static final String DATA = "data";
    static final String META = "meta";
    static final String DEVICE = "device";

    Map<String, Object> variables() {
        return Map.of(DATA, data, META, meta, DEVICE, device);
    }

    /** The unit of a field with a space before it, or nothing. */
    String unit(FieldPath field) {
        if (!field.names().getFirst().equals(DATA)) {
            return "";
        }
        String unit = units.get(
                String.join(".", field.names().subList(1, field.names().size())));
        return unit == null ? "" : " " + unit;
    }

    /** The value of a root by its name; null for a name that is none. */
    Object root(String name) {
        return switch (name) {
            case DATA -> data;
            case META -> new TreeMap<>(meta);
            case DEVICE -> new TreeMap<>(device);
            default -> null;
        };
    }
}
