package org.holtra.bench.load;

import java.util.function.DoubleSupplier;

/**
 * Runs something until it gets no faster: the compiler has little left to do then. How long that takes depends on the
 * machine by a factor of five.
 */
final class Warming {

    private static final long LEAST_NANOS = 30_000_000_000L;
    private static final long MOST_NANOS = 150_000_000_000L;
    private static final int ROUNDS_WITHOUT_GAIN = 6;
    private static final double GAIN = 1.03;

    private Warming() {}

    /**
     * @param round does a part and gives its rate
     * @return the rate at the end
     */
    static double up(DoubleSupplier round) {
        long began = System.nanoTime();
        double best = 0;
        double rate = 0;
        int without = 0;
        while (System.nanoTime() - began < LEAST_NANOS
                || without < ROUNDS_WITHOUT_GAIN && System.nanoTime() - began < MOST_NANOS) {
            rate = round.getAsDouble();
            without = rate > best * GAIN ? 0 : without + 1;
            best = Math.max(best, rate);
        }
        return rate;
    }
}
