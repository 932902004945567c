package org.holtra.core.setup;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * What is known of a field of a model's data.
 *
 * @param label for people, or null
 * @param unit its UCUM code, or null
 * @param min and {@code max}: the range outside of which a value is not to be believed; null for none
 */
public record FieldSpec(String label, String unit, Double min, Double max) {

    /** As expressions see it; what is not known is left out. */
    Map<String, Object> seen(String name) {
        Map<String, Object> seen = new LinkedHashMap<>();
        seen.put("name", name);
        seen.put("label", label == null ? name : label);
        if (unit != null) {
            seen.put("unit", unit);
        }
        if (min != null) {
            seen.put("min", min);
        }
        if (max != null) {
            seen.put("max", max);
        }
        return seen;
    }
}
