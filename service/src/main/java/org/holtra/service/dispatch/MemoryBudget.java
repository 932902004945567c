package org.holtra.service.dispatch;

import java.util.concurrent.atomic.AtomicLong;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.stereotype.Component;

/** How much content may wait in memory, all lanes together. What finds no room waits in the database only. */
@Component
class MemoryBudget {

    /** What a task costs beside its body: objects, headers, parsed data. A rough figure on the safe side. */
    private static final long OVERHEAD = 4_096;

    private static final int DATA_PER_BODY = 4;

    private final long limit;
    private final AtomicLong used = new AtomicLong();

    MemoryBudget(HoltraSettings settings) {
        this.limit = settings.memoryMegabytes() * 1024L * 1024L;
    }

    boolean take(long bodyBytes) {
        long bytes = cost(bodyBytes);
        if (used.addAndGet(bytes) > limit) {
            used.addAndGet(-bytes);
            return false;
        }
        return true;
    }

    boolean hasRoom() {
        return used.get() < limit;
    }

    /** Takes what has been claimed from the table already, room or not; claims are small. */
    void force(long bodyBytes) {
        used.addAndGet(cost(bodyBytes));
    }

    void give(long bodyBytes) {
        used.addAndGet(-cost(bodyBytes));
    }

    private static long cost(long bodyBytes) {
        return OVERHEAD + bodyBytes * DATA_PER_BODY;
    }
}
