package org.holtra.service.journal.entry;

import java.time.Instant;

/**
 * What a lane owes an outlet.
 *
 * @param oldest when the oldest of the messages arrived
 * @param reason why that one waits, or null
 * @param nextTry when that one may be tried next, or null if it is in a dispatcher's hands
 */
public record LaneDebt(String lane, String outlet, long waiting, Instant oldest, String reason, Instant nextTry) {}
