package org.holtra.service.journal;

import java.time.Instant;
import java.util.UUID;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.journal.entry.Delivery;

/**
 * What has become of a delivery, to be written down.
 *
 * @param owed the delivery as it is after the attempt
 * @param attempt that was made; null if none was
 * @param fate delivered, dead, or back to the table to wait
 * @param cause what dead letters are grouped by; null unless dead
 */
public record Settlement(Delivery.Owed owed, AttemptRow attempt, Kind fate, String cause, Instant at) {

    /**
     * A settlement, and the id of the node under which its delivery was taken: if it is another's by now, it is that one's
     * to settle.
     */
    record By(Settlement settlement, UUID owner) {

        /** Of what was sent. */
        long bytes() {
            AttemptRow attempt = settlement.attempt;
            return attempt == null || attempt.requestBody() == null ? 0 : attempt.requestBody().length;
        }
    }

    public enum Kind {
        DELIVERED,
        DEAD,
        WAITING,
        /** An attempt was made, and another follows at once; the delivery stays in hand. */
        TRIED
    }

    /** Whether something waits until it is written: what comes after it under its order key, or what looks at the table next. */
    boolean isAwaited() {
        return fate == Kind.WAITING || owed.orderKey() != null;
    }

    /** A delivery that goes back to the table without an attempt, to be claimed again when it is due. */
    public static Settlement released(Delivery.Owed owed, Instant due, String reason, Instant now) {
        return new Settlement(
                owed.after(owed.attempts(), due, owed.givesUp(), owed.frozen(), reason), null, Kind.WAITING, null, now);
    }
}
