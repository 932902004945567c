package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/** The devices whose deliveries a destination refuses for now, each until it is tried again. Guarded by its runner. */
final class HeldDevices {

    private final Map<String, Instant> until = new HashMap<>();

    void hold(String device, Instant next) {
        if (device != null) {
            until.put(device, next);
        }
    }

    void free(String device) {
        until.remove(device);
    }

    void freeAll() {
        until.clear();
    }

    int count() {
        return until.size();
    }

    /** Until when the device's deliveries must wait; empty if they need not, or if this one is to try again. */
    Optional<Instant> until(String device, Instant now) {
        Instant next = until.get(device);
        return next == null || !next.isAfter(now) ? Optional.empty() : Optional.of(next);
    }
}
