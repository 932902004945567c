package org.holtra.service.journal.entry;

import java.time.Instant;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/**
 * One message on one lane, as long as it is owed.
 *
 * @param message what is to be delivered
 */
public record Delivery(Owed owed, StoredMessage message) {

    /**
     * What the hot table knows of it.
     *
     * @param attempts how many have been made
     * @param due when it may be tried next
     * @param givesUp when it is given up, on the outlet's patience clock; null before the first attempt
     * @param frozen the exact content of an attempt whose outcome is unknown, to be sent again as it was; or null
     * @param reason why it still waits, or null
     * @param part what of the message it is
     * @param orderKey the device whose deliveries on its lane go one after the other; null where they need not
     */
    public record Owed(
            UUID id,
            MessageId message,
            String lane,
            String outlet,
            String device,
            int attempts,
            Instant due,
            Instant givesUp,
            byte[] frozen,
            String reason,
            Part part,
            String orderKey) {

        /** The same, with how it went so far. */
        public Owed after(int made, Instant dueThen, Instant givesUpThen, byte[] frozenThen, String why) {
            return new Owed(
                    id, message, lane, outlet, device, made, dueThen, givesUpThen, frozenThen, why, part, orderKey);
        }
    }

    /**
     * What of a message a delivery is.
     *
     * @param point of the device; null for the message as a whole
     * @param correction 0 for what a message is delivered for first; counts what corrects that, from 1
     * @param replay that delivers it again; null if it is no replay
     * @param late whether it came after what it belongs to was closed, and goes on as it is
     */
    public record Part(String point, int correction, Replay replay, boolean late) {

        public static final Part WHOLE = new Part(null, 0, null, false);
        public static final Part LATE = new Part(null, 0, null, true);
    }

    public UUID id() {
        return owed.id();
    }

    /** The same for every attempt, so that a receiver can drop doubles: message, lane and point, and which correction. */
    public String idempotencyKey() {
        if (owed.part().replay() != null) {
            return owed.part().replay().sameKey()
                    ? originalKey()
                    : originalKey() + "." + owed.part().replay().name();
        }
        return owed.part().correction() == 0
                ? originalKey()
                : originalKey() + "." + owed.part().correction();
    }

    /** The key of what this corrects or replays, or its own. */
    public String originalKey() {
        return owed.part().point() == null
                ? owed.message() + "." + owed.lane()
                : owed.message() + "." + owed.lane() + "." + owed.part().point();
    }
}
