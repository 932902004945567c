package org.holtra.core.delivery;

import java.time.Duration;
import java.util.random.RandomGenerator;

/**
 * When to try again: exponential growth with full jitter, that is a random time between nothing and the grown delay, so
 * that what failed together does not return together.
 *
 * @param first the delay after the first attempt, before jitter; positive
 * @param factor what each further delay is multiplied by; at least 1
 * @param longest no delay is longer, before jitter
 * @param giveUpAfter how long after its first attempt a delivery is given up, time blocked not counted
 */
public record RetrySchedule(Duration first, double factor, Duration longest, Duration giveUpAfter) {

    public static final RetrySchedule USUAL =
            new RetrySchedule(Duration.ofSeconds(2), 2, Duration.ofMinutes(5), Duration.ofDays(2));

    /** @param attempts how many have been made; at least 1 */
    public Duration delay(int attempts, RandomGenerator random) {
        double grown = first.toMillis() * Math.pow(factor, attempts - 1.0);
        long ceiling = (long) Math.min(grown, longest.toMillis());
        return Duration.ofMillis(ceiling <= 0 ? 0 : random.nextLong(ceiling + 1));
    }
}
