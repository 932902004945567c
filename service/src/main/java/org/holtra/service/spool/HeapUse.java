package org.holtra.service.spool;

import java.lang.management.ManagementFactory;
import java.lang.management.MemoryPoolMXBean;
import java.lang.management.MemoryType;
import java.lang.management.MemoryUsage;
import java.util.List;
import org.springframework.stereotype.Component;

/** How much of the heap is taken by what is kept. Near its end the service does little but collect, and then ends. */
@Component
class HeapUse {

    private final List<MemoryPoolMXBean> pools;

    HeapUse() {
        this(ManagementFactory.getMemoryPoolMXBeans());
    }

    HeapUse(List<MemoryPoolMXBean> all) {
        // Of the pools of the heap, only the one for what lives long can be watched by a threshold.
        pools = all.stream()
                .filter(pool -> pool.getType() == MemoryType.HEAP && pool.isUsageThresholdSupported())
                .toList();
    }

    /** Of the room for what lives long, after the last full collection; 0 before the first. */
    int percent() {
        long used = 0;
        long most = 0;
        for (MemoryPoolMXBean pool : pools) {
            MemoryUsage collected = pool.getCollectionUsage();
            if (collected != null && collected.getMax() > 0) {
                used += Math.min(collected.getUsed(), pool.getUsage().getUsed());
                most += collected.getMax();
            }
        }
        return most == 0 ? 0 : (int) (100 * used / most);
    }
}
