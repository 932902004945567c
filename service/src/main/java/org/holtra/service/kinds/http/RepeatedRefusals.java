package org.holtra.service.kinds.http;

import java.time.Duration;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.LongSupplier;

/**
 * Makes a caller that is refused again and again wait for the answer, so that refusing it leaves the machine to others. What
 * waits is bounded: beyond that, answers are given at once. Senders that are not refused never wait.
 */
final class RepeatedRefusals {

    /** From one address, so many are answered at once within a second. */
    static final int AT_ONCE = 50;

    static final Duration DELAY = Duration.ofSeconds(1);

    private static final int MOST_WAITING = 2_000;
    private static final int MOST_CALLERS = 10_000;
    private static final long SECOND = 1_000_000_000L;

    /** Who was refused how often within one second. */
    private record Second(long number, Map<String, AtomicInteger> callers) {}

    private final ScheduledExecutorService later;
    private final LongSupplier nanos;
    private final AtomicInteger waiting = new AtomicInteger();
    private volatile Second now = new Second(0, new ConcurrentHashMap<>());

    /** @param nanos a clock that only goes forward */
    RepeatedRefusals(ScheduledExecutorService later, LongSupplier nanos) {
        this.later = later;
        this.nanos = nanos;
    }

    /** Counts a refusal; says whether its answer should wait. */
    boolean isRepeated(String caller) {
        long number = nanos.getAsLong() / SECOND;
        Second second = now;
        if (second.number != number) {
            second = new Second(number, new ConcurrentHashMap<>());
            now = second;
        }
        if (second.callers.size() >= MOST_CALLERS && !second.callers.containsKey(caller)) {
            return true; // more callers than anybody has: a flood, from wherever it comes
        }
        return second.callers
                        .computeIfAbsent(caller, fresh -> new AtomicInteger())
                        .incrementAndGet()
                > AT_ONCE;
    }

    /** Gives an answer after a while, on a thread of its own; false if too many wait already. */
    boolean wait(Runnable answer) {
        if (waiting.incrementAndGet() > MOST_WAITING) {
            waiting.decrementAndGet();
            return false;
        }
        later.schedule(
                () -> Thread.ofVirtual().name("refusal").start(() -> {
                    try {
                        answer.run();
                    } finally {
                        waiting.decrementAndGet();
                    }
                }),
                DELAY.toMillis(),
                TimeUnit.MILLISECONDS);
        return true;
    }
}
