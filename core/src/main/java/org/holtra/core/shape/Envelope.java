package org.holtra.core.shape;

import java.util.List;
import java.util.Map;

/**
 * What goes with a body, by the names that the outlet's kind has for it, written for where it stands.
 *
 * @param texts such as the path of a request
 * @param named such as its headers, in order
 */
public record Envelope(Map<String, String> texts, Map<String, List<Map.Entry<String, String>>> named) {

    public static final Envelope EMPTY = new Envelope(Map.of(), Map.of());

    /** Empty if the shape does not say. */
    public String text(String name) {
        return texts.getOrDefault(name, "");
    }

    /** Empty if the shape does not say. */
    public List<Map.Entry<String, String>> named(String name) {
        return named.getOrDefault(name, List.of());
    }
}
