package org.holtra.core.expression;

import java.util.Map;
import java.util.TreeMap;

/**
 * What an expression sees.
 *
 * @param data what was sent
 * @param meta what the transport adds
 * @param device what is known of the device; empty where the message has none
 */
public record Scope(Object data, Map<String, ?> meta, Map<String, ?> device) {

    static final String DATA = "data";
    static final String META = "meta";
    static final String DEVICE = "device";

    Map<String, Object> variables() {
        return Map.of(DATA, data, META, meta, DEVICE, device);
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
