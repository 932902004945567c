package org.holtra.core.setup;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * A measuring point that devices of a model have.
 *
 * @param fields its fields, each with the name it has in the device's data
 * @param facts what is known of such points as long as nothing else is said of one
 */
public record PointSpec(Map<String, String> fields, Map<String, Object> facts) {

    PointSpec and(String field, String inData) {
        Map<String, String> more = new LinkedHashMap<>(fields);
        more.put(field, inData);
        return new PointSpec(more, facts);
    }

    PointSpec without(String field) {
        Map<String, String> rest = new LinkedHashMap<>(fields);
        rest.remove(field);
        return new PointSpec(rest, facts);
    }

    boolean isEmpty() {
        return fields.isEmpty() && facts.isEmpty();
    }
}
