package org.holtra.service.journal;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;

/**
 * What this node cannot tell whether it was written: the connection broke, or hung, while it was. Should it turn up, it is
 * nobody's, and is claimed like any other.
 *
 * <p>A doubt ends when what it is about was found, or after it was looked for, in a database that answered, for as long as
 * a transaction whose client is gone can last. Time in which the database is away does not count.
 *
 * @param <T> what is known of it
 */
final class UncertainWrites<T> {

    /** A transaction whose client is gone ends in less. */
    private static final Duration KEPT = Duration.ofMinutes(2);

    private record Doubt<T>(T about, Instant lookedForSince) {}

    private final Map<UUID, Doubt<T>> open = new ConcurrentHashMap<>();

    void add(UUID id, T about) {
        open.put(id, new Doubt<>(about, null));
    }

    /** What is to be looked for. */
    Set<UUID> open() {
        return Set.copyOf(open.keySet());
    }

    /**
     * These were looked for.
     *
     * @param found those that turned up, and now are nobody's
     * @return those about which there is no doubt any more
     */
    List<T> lookedFor(Collection<UUID> ids, Set<UUID> found, Instant now) {
        List<T> ended = new ArrayList<>();
        for (UUID id : ids) {
            Doubt<T> doubt = open.get(id);
            if (doubt == null) {
                continue;
            }
            Instant since = doubt.lookedForSince == null ? now : doubt.lookedForSince;
            if (found.contains(id) || since.plus(KEPT).isBefore(now)) {
                open.remove(id);
                ended.add(doubt.about);
            } else {
                open.put(id, new Doubt<>(doubt.about, since));
            }
        }
        return ended;
    }
}
