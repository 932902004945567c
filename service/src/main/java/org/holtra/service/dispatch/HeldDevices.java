package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The devices whose deliveries a destination refuses for now, each until it is tried again. Guarded by its runner. */
public final class HeldDevices {

    /**
     * @param reason the destination gave
     * @param until the device's next delivery is tried then
     */
    public record Held(String device, String reason, Instant since, Instant until) {}

    private final Map<String, Held> held = new HashMap<>();

    HeldDevices(List<Held> remembered) {
        remembered.forEach(one -> held.put(one.device, one));
    }

    /** Whether it was not held before. */
    boolean hold(String device, String reason, Instant now, Instant next) {
        if (device == null) {
            return false;
        }
        Held before = held.get(device);
        held.put(device, new Held(device, reason, before == null ? now : before.since, next));
        return before == null;
    }

    /** Whether it was held. */
    boolean free(String device) {
        return held.remove(device) != null;
    }

    /** Whether any was held. */
    boolean freeAll() {
        boolean any = !held.isEmpty();
        held.clear();
        return any;
    }

    /** Those held the longest first. */
    List<Held> all() {
        return held.values().stream().sorted(Comparator.comparing(Held::since)).toList();
    }

    /** Until when the device's deliveries must wait; empty if they need not, or if this one is to try again. */
    Optional<Instant> until(String device, Instant now) {
        Held one = held.get(device);
        return one == null || !one.until.isAfter(now) ? Optional.empty() : Optional.of(one.until);
    }
}
