package org.holtra.service.database;

import java.util.function.LongSupplier;
import java.util.function.Supplier;

/**
 * Asks for something anew only when its last answer is many times older than asking took: what is quick to ask is always
 * fresh, and what is slow costs little. It is slow once it was so twice in a row: a single time tells of a busy machine, or
 * a database that hung. No answer is kept for longer than some seconds.
 */
public final class CachedValue<T> {

    private static final int AT_MOST_ONE_IN = 20;
    private static final long QUICK_NANOS = 20_000_000;
    private static final long LONGEST_NANOS = 5_000_000_000L;

    private final Supplier<T> ask;
    private final LongSupplier nanos;
    private T last;
    private long goodUntil;
    private long tookBefore;

    /** @param nanos a clock that never goes back */
    public CachedValue(Supplier<T> ask, LongSupplier nanos) {
        this.ask = ask;
        this.nanos = nanos;
        this.goodUntil = nanos.getAsLong();
    }

    public synchronized T get() {
        long began = nanos.getAsLong();
        if (last == null || began - goodUntil >= 0) {
            last = ask.get();
            long took = nanos.getAsLong() - began;
            long usual = Math.min(took, tookBefore);
            goodUntil = began + (usual < QUICK_NANOS ? 0 : Math.min(AT_MOST_ONE_IN * usual, LONGEST_NANOS));
            tookBefore = took;
        }
        return last;
    }
}
