package org.holtra.service.balance;

import java.time.Instant;
import java.util.List;
import java.util.UUID;

/**
 * The proof that nothing was lost, for the messages that arrived within a window.
 *
 * @param from the first instant of the window, a whole minute
 * @param to the first instant after it, a whole minute
 * @param missing how many messages or deliveries are not accounted for; 0 if everything is accounted for
 */
public record Balance(Instant from, Instant to, Intake intake, List<Lane> lanes, long missing) {

    /**
     * @param acknowledged counted where senders were answered
     * @param read kept and read
     * @param unreadable kept and not readable
     * @param unclaimed kept, of devices nobody knows where no unknown devices are admitted
     * @param deferred kept, and waiting to be read: their codec could not be run yet
     * @param duplicates kept, duplicates of messages that came before
     * @param ignored counted only, as their inlets ask for
     * @param spooled kept on a node's disk, until the database takes them
     * @param whole arrivals that were taken apart
     * @param parts the messages that were taken out of them, as each arrival says how many; they count among those above
     * @param unrouted of those read, what no lane took
     * @param unacknowledged kept although the sender may not have heard of it, because the process ended or the count is
     *     being written; senders send such messages again
     * @param missing acknowledged and not kept
     */
    public record Intake(
            long acknowledged,
            long read,
            long unreadable,
            long unclaimed,
            long deferred,
            long duplicates,
            long ignored,
            long spooled,
            long whole,
            long parts,
            long unrouted,
            long unacknowledged,
            long missing) {}

    /**
     * @param taken messages that the lane took
     * @param waiting owed, and in nobody's hands
     * @param inFlight owed, and in a node's hands
     * @param heldBack by the lane's memory
     * @param merged into what the lane made of several, or is making, or split into several; what it made counts as taken,
     *     too. What was merged into a message that is not there and is not being made is missing
     * @param remembered in the lane's memory, until it is known what becomes of it
     * @param missing taken, and without a fate
     */
    public record Lane(
            String lane,
            long taken,
            long delivered,
            long dead,
            long dropped,
            long waiting,
            long inFlight,
            long heldBack,
            long merged,
            long remembered,
            long missing) {}

    /**
     * A message for which something is missing.
     *
     * @param lane null if it is about the message as a whole
     */
    public record Difference(UUID message, Instant received, String lane, String what) {}
}
