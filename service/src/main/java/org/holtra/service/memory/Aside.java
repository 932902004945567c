package org.holtra.service.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Keys that are left alone for a while, since a message of theirs cannot be read now: others go on meanwhile. Used by one
 * thread.
 */
final class Aside {

    private static final Duration WHILE = Duration.ofSeconds(5);
    /** With more, the first ones are tried again. */
    private static final int MOST = 10_000;

    private record Key(String lane, String key) {}

    private final Map<Key, Instant> until = new LinkedHashMap<>();

    void set(String lane, String key, Instant now) {
        if (until.size() >= MOST) {
            until.clear();
        }
        until.put(new Key(lane, key), now.plus(WHILE));
    }

    String[] lanes(Instant now) {
        until.values().removeIf(end -> !end.isAfter(now));
        return until.keySet().stream().map(Key::lane).toArray(String[]::new);
    }

    String[] keys(Instant now) {
        return until.keySet().stream()
                .filter(key -> until.get(key).isAfter(now))
                .map(Key::key)
                .toArray(String[]::new);
    }
}
