package org.holtra.service.memory;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;

/** What an owner of timelines does in one transaction. Used by one thread. */
public interface TimelineStep {

    /**
     * Brings what came to the timeline of a key.
     *
     * @param came what is new to the key; all that is in its memory where something else is done with it from now on
     * @param messages those that came, as the journal has them
     * @throws CodecUnavailable if a message cannot be read now; then nothing has been noted of the key
     */
    void take(RememberedKey key, List<Came> came, Map<UUID, StoredMessage> messages, Instant now)
            throws CodecUnavailable;

    /** Nothing is done with a key any more: what was being made for it is made as it is. */
    default void end(RememberedKey key) {}

    /** Nothing is remembered under a name any more, and this message was in its memory. */
    default void release(String name, MessageId message) {}

    /** All that was remembered under a name has been released. */
    default void released(String name) {}

    /** Tells what could not be told when it happened. Called every so often. */
    default void catchUp() {}

    /** What is owed for all that was done. */
    List<Delivery.Owed> owed();

    /** Writes what was done, but for what is in the {@link Notes}. */
    default void write() {}
}
