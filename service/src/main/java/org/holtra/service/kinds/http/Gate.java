package org.holtra.service.kinds.http;

import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.LongSupplier;

/**
 * How much an inlet takes: so many messages a second, with as many at once after a pause as come in a second, and so many
 * requests under way.
 */
final class Gate {

    private final double perSecond;
    private final int atOnce;
    private final LongSupplier nanos;
    private final AtomicInteger underWay = new AtomicInteger();
    private double tokens;
    private long filled;

    /**
     * @param perSecond 0 for any
     * @param atOnce 0 for any
     */
    Gate(double perSecond, int atOnce, LongSupplier nanos) {
        this.perSecond = perSecond;
        this.atOnce = atOnce;
        this.nanos = nanos;
        this.tokens = burst();
        this.filled = nanos.getAsLong();
    }

    boolean isLike(double rate, int most) {
        return perSecond == rate && atOnce == most;
    }

    private double burst() {
        return Math.max(1, perSecond);
    }

    /** Takes one of the second's messages; false if there are none left. */
    synchronized boolean takesMore() {
        if (perSecond == 0) {
            return true;
        }
        long now = nanos.getAsLong();
        tokens = Math.min(burst(), tokens + (now - filled) * perSecond / 1e9);
        filled = now;
        if (tokens < 1) {
            return false;
        }
        tokens--;
        return true;
    }

    /** A request begins; empty if as many as may be are under way. */
    Optional<Pass> enter() {
        if (underWay.incrementAndGet() > atOnce && atOnce > 0) {
            underWay.decrementAndGet();
            return Optional.empty();
        }
        return Optional.of(new Pass());
    }

    /** A request that is under way, until it leaves; once is enough, and more does no harm. */
    final class Pass {

        private final AtomicBoolean left = new AtomicBoolean();
        private volatile Runnable last = () -> {};

        /** What is done when it leaves. */
        void atEnd(Runnable what) {
            last = what;
        }

        void leave() {
            if (left.compareAndSet(false, true)) {
                underWay.decrementAndGet();
                last.run();
            }
        }
    }
}
