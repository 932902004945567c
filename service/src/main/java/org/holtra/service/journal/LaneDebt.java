package org.holtra.service.journal;

import java.time.Instant;

/**
 * What a lane owes an outlet.
 *
 * @param oldest when the oldest of the messages arrived
 * @param reason why that one waits, or null
 * @param nextTry when one of them may be tried next, or null if all are in the dispatcher's hands
 */
public record LaneDebt(String lane, String outlet, long waiting, Instant oldest, String reason, Instant nextTry) {}
