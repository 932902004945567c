package org.holtra.core.expression;

import java.util.Map;

/**
 * A table that {@code lookup()} looks in.
 *
 * @param rows by key; a whole number's key is written without a point
 * @param otherwise what it gives for a key it does not have; null if it gives nothing then
 */
public record LookupTable(String name, Map<String, Object> rows, Object otherwise) {

    /** How a value of an expression is written as a key. */
    static String key(Object value) {
        return Plain.text(value);
    }
}
