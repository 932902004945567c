package org.holtra.service.journal;

import java.time.Instant;
import java.util.List;

/**
 * The proof that nothing was lost, for the messages that arrived within a window.
 *
 * @param from the first instant of the window, a whole minute
 * @param to the first instant after it, a whole minute
 * @param missing how many messages or deliveries are not accounted for; 0 if the books balance
 */
public record Balance(Instant from, Instant to, Intake intake, List<Lane> lanes, long missing) {

    /**
     * @param acknowledged counted where senders were answered
     * @param read kept and read
     * @param unreadable kept and not readable
     * @param unclaimed kept, of devices nobody knows where no strangers are admitted
     * @param duplicates kept, copies of messages that came before
     * @param untaken of those read, what no lane took
     * @param unacknowledged kept although the sender may not have heard of it, because the process ended or the count is
     *     being written; senders send such messages again
     * @param missing acknowledged and not kept
     */
    public record Intake(
            long acknowledged,
            long read,
            long unreadable,
            long unclaimed,
            long duplicates,
            long untaken,
            long unacknowledged,
            long missing) {}

    /**
     * @param taken messages that the lane took
     * @param waiting owed, in flight included
     * @param missing taken, and without a fate
     */
    public record Lane(String lane, long taken, long delivered, long dead, long dropped, long waiting, long missing) {}
}
