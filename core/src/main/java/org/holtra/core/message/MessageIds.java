package org.holtra.core.message;

import java.time.InstantSource;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicLong;
import java.util.random.RandomGenerator;

/**
 * Makes ids that rise strictly within one process, also when the clock stands still or steps back: the twelve bits
 * after the version count within a millisecond, and run over into the next one (RFC 9562, section 6.2, method 1).
 */
public final class MessageIds {

    private static final int COUNTER_BITS = 12;
    private static final long VARIANT = 0x8000_0000_0000_0000L;

    private final InstantSource clock;
    private final RandomGenerator random;
    /** Milliseconds and counter of the last id, as one number. */
    private final AtomicLong last = new AtomicLong();

    public MessageIds(InstantSource clock, RandomGenerator random) {
        this.clock = clock;
        this.random = random;
    }

    public MessageId next() {
        long now = clock.millis() << COUNTER_BITS;
        long tick = last.updateAndGet(previous -> Math.max(previous + 1, now));
        long millis = tick >>> COUNTER_BITS;
        long counter = tick & ((1 << COUNTER_BITS) - 1);
        return new MessageId(new UUID(millis << 16 | 0x7000 | counter, VARIANT | random.nextLong() >>> 2));
    }
}
