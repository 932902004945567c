package org.holtra.service.access;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Who tried in vain waits before the next try: after some free ones a second, and twice as long each time. What is remembered
 * of one is forgotten an hour after its last try, and of the longest quiet when there are too many.
 */
final class Pauses {

    private static final Duration FIRST = Duration.ofSeconds(1);
    private static final Duration REMEMBERED = Duration.ofHours(1);
    private static final int MOST_REMEMBERED = 20_000;
    private static final int MOST_DOUBLINGS = 20;

    private final InstantSource clock;
    private final int free;
    private final Duration longest;
    private final Map<String, Tries> all = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Tries> eldest) {
            return size() > MOST_REMEMBERED;
        }
    };

    private record Tries(int count, Instant last, Instant until) {}

    /** @param free how many tries in vain cost nothing */
    Pauses(InstantSource clock, int free, Duration longest) {
        this.clock = clock;
        this.free = free;
        this.longest = longest;
    }

    /** How long this one still has to wait; zero if not at all. */
    synchronized Duration left(String who) {
        Tries tries = all.get(who);
        if (tries == null) {
            return Duration.ZERO;
        }
        Instant now = clock.instant();
        if (tries.last.plus(REMEMBERED).isBefore(now)) {
            all.remove(who);
            return Duration.ZERO;
        }
        Duration left = Duration.between(now, tries.until);
        return left.isNegative() ? Duration.ZERO : left;
    }

    /** A try begins. It counts as in vain until it is told that it was not, so that many at once count too. */
    synchronized void tries(String who) {
        Instant now = clock.instant();
        int count = all.containsKey(who) ? all.get(who).count + 1 : 1;
        Duration pause =
                count < free ? Duration.ZERO : FIRST.multipliedBy(1L << Math.min(count - free, MOST_DOUBLINGS));
        all.put(who, new Tries(count, now, now.plus(pause.compareTo(longest) > 0 ? longest : pause)));
    }

    /** The tries of this one were not in vain after all. */
    synchronized void forget(String who) {
        all.remove(who);
    }
}
