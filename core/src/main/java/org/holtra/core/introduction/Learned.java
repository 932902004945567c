package org.holtra.core.introduction;

import java.util.Map;

/**
 * What an answer to a step brought.
 *
 * @param id of the device there, or null
 * @param kept what expressions see of it later, by name
 * @param secret that the destination wants to be shown with the device's messages, or null
 */
public record Learned(String id, Map<String, Object> kept, String secret) {

    static final Learned NOTHING = new Learned(null, Map.of(), null);

    /** A destination that gives no ids knows a device by the name that we give it. */
    public static Learned called(String name) {
        return new Learned(name, Map.of(), null);
    }

    /** Tells nothing of the secret. */
    @Override
    public String toString() {
        return "id " + id + ", " + kept.keySet() + (secret == null ? "" : " and a secret");
    }
}
