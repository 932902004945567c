package org.holtra.service.journal.entry;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;

/**
 * A message as the journal keeps it.
 *
 * @param state {@code read}, {@code unreadable}, {@code unclaimed}, {@code deferred} or {@code duplicate}
 * @param reason why it is unreadable, or a note on how it was read; or null
 * @param device key, or null
 * @param deviceRevision of what was known of the device when lanes picked, or null
 * @param eventTime null if unreadable
 * @param type null if unreadable
 * @param setupRevision the setup that read it and picked
 * @param lanes that took it
 * @param sequence the device's own number for it, or null
 * @param duplicateKey what it has in common with its duplicates, or null
 * @param duplicateOf the message it is a duplicate of, or null
 * @param parts how many messages it was taken apart into; null if it was not
 */
public record StoredMessage(
        Arrival arrival,
        String state,
        String reason,
        String device,
        Integer deviceRevision,
        Instant eventTime,
        String type,
        boolean simulated,
        int setupRevision,
        List<String> lanes,
        Long sequence,
        String duplicateKey,
        UUID duplicateOf,
        Integer parts) {

    /** One that was not taken apart. */
    public StoredMessage(
            Arrival arrival,
            String state,
            String reason,
            String device,
            Integer deviceRevision,
            Instant eventTime,
            String type,
            boolean simulated,
            int setupRevision,
            List<String> lanes,
            Long sequence,
            String duplicateKey,
            UUID duplicateOf) {
        this(
                arrival,
                state,
                reason,
                device,
                deviceRevision,
                eventTime,
                type,
                simulated,
                setupRevision,
                lanes,
                sequence,
                duplicateKey,
                duplicateOf,
                null);
    }

    /** An arrival that was taken apart into so many messages. */
    public static StoredMessage whole(Arrival arrival, int parts, int ignored, int setupRevision) {
        return new StoredMessage(
                arrival,
                WHOLE,
                (parts == 1 ? "taken apart into 1 message" : "taken apart into " + parts + " messages")
                        + (ignored == 0 ? "" : "; " + ignored + " more ignored"),
                null,
                null,
                null,
                null,
                false,
                setupRevision,
                List.of(),
                null,
                null,
                null,
                parts);
    }

    public static final String READ = "read";
    public static final String UNREADABLE = "unreadable";
    public static final String UNCLAIMED = "unclaimed";
    /** Of what it is owed; what is asked for, and no state of its own. */
    public static final String WAITING = "waiting";

    public static final String DEAD = "dead";

    /** It waits to be read: its codec could not be run when it came. */
    public static final String DEFERRED = "deferred";

    /** An arrival of several messages, which were taken out of it. */
    public static final String WHOLE = "whole";

    public static final String TRIAL = "trial";
    public static final String DUPLICATE = "duplicate";
    /** By a lane, of others. */
    public static final String MADE = "made";
    /** Not in the journal yet, and never there in this state. */
    public static final String SPOOLED = "spooled";

    /** An arrival that waits for the journal. */
    public static StoredMessage spooled(Arrival arrival, String reason) {
        return new StoredMessage(
                arrival, SPOOLED, reason, null, null, null, null, false, 0, List.of(), null, null, null);
    }

    public MessageId id() {
        return arrival.id();
    }

    /** The same, as a duplicate of a message that came before. */
    public StoredMessage asDuplicateOf(UUID first) {
        return new StoredMessage(
                arrival,
                DUPLICATE,
                null,
                device,
                null,
                null,
                type,
                simulated,
                setupRevision,
                List.of(),
                sequence,
                duplicateKey,
                first);
    }

    /** The same, as something Holtra made. */
    public StoredMessage made(UUID of) {
        return new StoredMessage(
                arrival,
                MADE,
                reason,
                device,
                deviceRevision,
                eventTime,
                type,
                simulated,
                setupRevision,
                lanes,
                null,
                null,
                of);
    }

    /** Whether it waits to be read. */
    public boolean isDeferred() {
        return DEFERRED.equals(state);
    }

    /** The same for another reason, or with another note. */
    public StoredMessage because(String why) {
        return new StoredMessage(
                arrival,
                state,
                why,
                device,
                deviceRevision,
                eventTime,
                type,
                simulated,
                setupRevision,
                lanes,
                sequence,
                duplicateKey,
                duplicateOf);
    }

    public boolean readable() {
        return READ.equals(state) || TRIAL.equals(state) || MADE.equals(state);
    }

    /** Whether it came in by an inlet, and is no duplicate of another. */
    public boolean cameAsFirst() {
        return !DUPLICATE.equals(state) && !TRIAL.equals(state) && !MADE.equals(state) && !WHOLE.equals(state);
    }
}
