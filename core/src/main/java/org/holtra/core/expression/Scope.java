package org.holtra.core.expression;

import java.util.HashMap;
import java.util.Map;

/**
 * What an expression sees.
 *
 * @param data what was sent
 * @param meta what the transport adds
 * @param device what is known of the device; empty where the message has none
 * @param units the UCUM codes of fields of the data that have one, by name, for telling values to people
 * @param more variables, by name: the item of a list that a part is repeated over
 */
public record Scope(
        Object data, Map<String, ?> meta, Map<String, ?> device, Map<String, String> units, Map<String, Object> more) {

    public Scope(Object data, Map<String, ?> meta, Map<String, ?> device) {
        this(data, meta, device, Map.of(), Map.of());
    }

    public Scope(Object data, Map<String, ?> meta, Map<String, ?> device, Map<String, String> units) {
        this(data, meta, device, units, Map.of());
    }

    static final String DATA = "data";
    static final String META = "meta";
    static final String DEVICE = "device";

    Map<String, Object> variables() {
        if (more.isEmpty()) {
            return Map.of(DATA, data, META, meta, DEVICE, device);
        }
        Map<String, Object> all = new HashMap<>(more);
        all.put(DATA, data);
        all.put(META, meta);
        all.put(DEVICE, device);
        return all;
    }

    /** The same with a variable more. */
    public Scope with(String name, Object value) {
        Map<String, Object> all = new HashMap<>(more);
        all.put(name, value);
        return new Scope(data, meta, device, units, Map.copyOf(all));
    }

    /** The unit of a field with a space before it, or nothing. */
    public String unit(FieldPath field) {
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
            case META -> meta;
            case DEVICE -> device;
            default -> null;
        };
    }
}
