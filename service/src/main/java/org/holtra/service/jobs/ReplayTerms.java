package org.holtra.service.jobs;

import java.time.Instant;

/**
 * Which messages are delivered again, and how.
 *
 * @param lane whose shape they get
 * @param outlet where they go; null for the lane's
 * @param device only those of this device; null for any
 * @param where only those this condition holds for; null for any
 * @param unrouted also those the lane did not take when they came
 * @param sameKey under the idempotency key of the first delivery instead of one of their own
 * @param perSecond at most so many a second; null for as many as can be
 */
public record ReplayTerms(
        String lane,
        String outlet,
        Instant from,
        Instant to,
        String device,
        String where,
        Boolean unrouted,
        Boolean sameKey,
        Double perSecond) {

    public ReplayTerms {
        unrouted = Boolean.TRUE.equals(unrouted);
        sameKey = Boolean.TRUE.equals(sameKey);
    }
}
