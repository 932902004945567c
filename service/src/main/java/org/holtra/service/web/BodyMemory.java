package org.holtra.service.web;

import java.util.concurrent.atomic.AtomicLong;

/** How much memory the bodies of requests under way may take together, so that many of them cannot exhaust the heap. */
public final class BodyMemory {

    private final long limit;
    private final AtomicLong used = new AtomicLong();

    /** @param limit in bytes */
    public BodyMemory(long limit) {
        this.limit = limit;
    }

    /** A share of the heap that leaves enough for everything else: an eighth of it. */
    public static BodyMemory ofHeap() {
        return new BodyMemory(Runtime.getRuntime().maxMemory() / 8);
    }

    /** Takes so many bytes more; false if there are not so many left, and then nothing is taken. */
    public boolean take(long bytes) {
        if (used.addAndGet(bytes) > limit) {
            used.addAndGet(-bytes);
            return false;
        }
        return true;
    }

    /** Gives back what was taken. */
    public void giveBack(long bytes) {
        used.addAndGet(-bytes);
    }

    /** How many bytes are taken. */
    public long used() {
        return used.get();
    }
}
