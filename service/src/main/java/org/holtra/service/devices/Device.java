package org.holtra.service.devices;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * What is known of a device.
 *
 * @param facts what people know of it, by name
 * @param revision counts the changes of model and facts, from 1
 * @param firstHeard null if it has never been heard
 */
public record Device(
        String key,
        String model,
        Map<String, Object> facts,
        int revision,
        boolean simulated,
        Instant firstHeard,
        Instant lastHeard) {

    /** As expressions see it. */
    public Map<String, Object> scope() {
        Map<String, Object> scope = new LinkedHashMap<>();
        scope.put("key", key);
        if (model != null) {
            scope.put("model", model);
        }
        scope.put("facts", facts);
        scope.put("simulated", simulated);
        return scope;
    }
}
