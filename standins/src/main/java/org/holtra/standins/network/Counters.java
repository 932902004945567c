package org.holtra.standins.network;

import java.util.HashMap;
import java.util.Map;
import java.util.random.RandomGenerator;

/** The frame counters of the devices. Some frames never reach a gateway, and some devices begin to count anew. */
final class Counters {

    private static final double LOST = 0.02;
    private static final String RESTARTS = "cs-20";
    private static final int RESTARTS_AFTER = 40;

    private final RandomGenerator random;
    private final Map<String, Integer> last = new HashMap<>();

    Counters(RandomGenerator random) {
        this.random = random;
    }

    int next(String device) {
        int step = random.nextDouble() < LOST ? 2 + random.nextInt(3) : 1;
        int next = last.getOrDefault(device, 0) + step;
        last.put(device, device.equals(RESTARTS) && next >= RESTARTS_AFTER ? 0 : next);
        return next;
    }
}
