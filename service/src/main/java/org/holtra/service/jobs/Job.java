package org.holtra.service.jobs;

import java.time.Instant;
import java.util.UUID;

/**
 * Work on many messages or deliveries, started by a person.
 *
 * @param number that people call it by
 * @param what {@code retry}, {@code drop}, {@code replay}, {@code look} or {@code mend}
 * @param terms what is to be done to which things, as JSON
 * @param expected how many things there were when it began; null if that is not known
 * @param reached how far it has come; null at the beginning
 * @param state {@code running}, {@code done}, {@code failed} or {@code cancelled}
 * @param note what else there is to say, such as why it failed
 * @param undoUntil until when it can be taken back; null if it cannot
 * @param undone when it was taken back
 * @param node that does it
 */
public record Job(
        UUID id,
        long number,
        String what,
        String terms,
        String byWhom,
        Instant begun,
        Long expected,
        long done,
        String reached,
        String state,
        Instant ended,
        String note,
        Instant undoUntil,
        Instant undone,
        UUID node) {

    public static final String RUNNING = "running";
    public static final String DONE = "done";
    public static final String FAILED = "failed";
    public static final String CANCELLED = "cancelled";
}
