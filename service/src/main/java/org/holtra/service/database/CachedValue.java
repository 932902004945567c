package org.holtra.service.database;

import java.util.function.LongSupplier;
import java.util.function.Supplier;

/**
 * Asks for something anew only when its last answer is many times older than asking took: what is quick to ask is always
 * fresh, and what is slow costs little. No answer is kept for longer than some seconds: it may have been a database that
 * hung that made asking slow.
 */
public final class CachedValue<T> {

    private static final int AT_MOST_ONE_IN = 20;
    private static final long QUICK_NANOS = 20_000_000;
    private static final long LONGEST_NANOS = 10_000_000_000L;

    private final Supplier<T> ask;
    private final LongSupplier nanos;
    private T last;
    private long goodUntil;

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
            goodUntil = began + (took < QUICK_NANOS ? 0 : Math.min(AT_MOST_ONE_IN * took, LONGEST_NANOS));
        }
        return last;
    }
}
