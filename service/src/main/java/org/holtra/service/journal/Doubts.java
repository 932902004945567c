package org.holtra.service.journal;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Deliveries of which this node cannot tell whether they were written, and looks of which it cannot tell what they claimed:
 * the connection broke, or hung, while they were. Should they turn up, they are nobody's, and are claimed like any other.
 */
final class Doubts {

    /** A transaction whose client is gone ends in less. */
    private static final Duration KEPT = Duration.ofMinutes(2);

    private final Map<UUID, Instant> since = new ConcurrentHashMap<>();

    void add(Collection<UUID> ids, Instant now) {
        ids.forEach(id -> since.put(id, now));
    }

    Set<UUID> open(Instant now) {
        since.values().removeIf(then -> then.plus(KEPT).isBefore(now));
        return new HashSet<>(since.keySet());
    }
}
