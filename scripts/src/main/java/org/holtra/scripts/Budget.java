package org.holtra.scripts;

import java.lang.management.ManagementFactory;
import java.lang.management.ThreadMXBean;
import java.time.Duration;

/**
 * Bounds what a thread uses of a processor. It is the thread's own time that counts: what the machine does besides, and what
 * the engine's compiler and the garbage collector do, is none of the script's.
 */
final class Budget {

    private static final long LOOK_MILLIS = 10;

    private final ThreadMXBean threads = ManagementFactory.getThreadMXBean();
    private final long thread;
    private final Runnable exceeded;
    private long endsAt = Long.MAX_VALUE;

    /** @param exceeded called, by another thread, when the thread that makes this has used up what it was given */
    Budget(Runnable exceeded) {
        this.thread = Thread.currentThread().threadId();
        this.exceeded = exceeded;
        Thread watch = new Thread(this::watch, "budget");
        watch.setDaemon(true);
        watch.setPriority(Thread.MAX_PRIORITY);
        watch.start();
    }

    /** From now on it may use so much. */
    synchronized void give(Duration time) {
        endsAt = threads.getThreadCpuTime(thread) + time.toNanos();
        notifyAll();
    }

    /** It has come to its end. */
    synchronized void ended() {
        endsAt = Long.MAX_VALUE;
    }

    private void watch() {
        try {
            while (true) {
                look();
                Thread.sleep(LOOK_MILLIS);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private synchronized void look() throws InterruptedException {
        while (endsAt == Long.MAX_VALUE) {
            wait();
        }
        if (threads.getThreadCpuTime(thread) > endsAt) {
            exceeded.run();
        }
    }
}
