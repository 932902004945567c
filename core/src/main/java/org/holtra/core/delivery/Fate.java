package org.holtra.core.delivery;

import java.time.Duration;
import java.time.Instant;
import java.util.random.RandomGenerator;

/** What becomes of a delivery after an attempt. */
public sealed interface Fate {

    record Delivered() implements Fate {}

    /** @param at when it is tried again */
    record Waiting(String reason, Instant at) implements Fate {}

    record Dead(String reason) implements Fate {}

    /** How long a delivery of a device that the destination refuses is kept before it is tried again. */
    Duration HELD = Duration.ofMinutes(1);

    /** How long at most a delivery waits for its device to be introduced before that is looked at again. */
    Duration INTRODUCED = Duration.ofHours(1);

    /**
     * @param attempts how many have been made, this one included
     * @param givesUp when the delivery is given up, on the outlet's patience clock
     * @param patience the outlet's patience clock now
     */
    static Fate of(
            Verdict verdict,
            int attempts,
            RetrySchedule schedule,
            Instant givesUp,
            Instant patience,
            Instant now,
            RandomGenerator random) {
        return switch (verdict) {
            case Verdict.Delivered ignored -> new Delivered();
            case Verdict.Refused(String reason) -> new Dead(reason);
            case Verdict.OutletBlocked(String reason) -> new Waiting(reason, now);
            case Verdict.DeviceHeld(String reason) ->
                patience.isBefore(givesUp) ? new Waiting(reason, now.plus(HELD)) : new Dead(givenUp(reason, attempts));
            case Verdict.DeviceUnknown(String reason) -> new Waiting(reason, now.plus(INTRODUCED));
            case Verdict.TryLater(String reason, Instant notBefore, boolean unknown, boolean broken) -> {
                if (!patience.isBefore(givesUp)) {
                    yield new Dead(givenUp(reason, attempts));
                }
                Instant next = now.plus(schedule.delay(attempts, random));
                yield new Waiting(reason, notBefore != null && notBefore.isAfter(next) ? notBefore : next);
            }
        };
    }

    private static String givenUp(String reason, int attempts) {
        return "given up after " + attempts + (attempts == 1 ? " attempt: " : " attempts: ") + reason;
    }
}
