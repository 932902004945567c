package org.holtra.standins.cloud;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * A device in the cloud's registry.
 *
 * @param key that its owner knows it by
 * @param token by which it may write its own measurements
 * @param described what its fields are, as it was told; null if it was not
 */
public record CloudDevice(
        String id, String key, String name, boolean active, boolean disabled, String token, Object described) {

    CloudDevice named(String other) {
        return new CloudDevice(id, key, other, active, disabled, token, described);
    }

    CloudDevice activated(boolean it) {
        return new CloudDevice(id, key, name, it, disabled, token, described);
    }

    CloudDevice disabled(boolean it) {
        return new CloudDevice(id, key, name, active, it, token, described);
    }

    CloudDevice described(Object fields) {
        return new CloudDevice(id, key, name, active, disabled, token, fields);
    }

    /** As others see it: without its token. */
    public Map<String, Object> shown() {
        Map<String, Object> shown = new LinkedHashMap<>();
        shown.put("id", id);
        shown.put("key", key);
        shown.put("name", name);
        shown.put("state", disabled ? "disabled" : active ? "active" : "new");
        if (described != null) {
            shown.put("fields", described);
        }
        return shown;
    }
}
