package org.holtra.service.journal;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.sql.OutcomeMapper;
import org.holtra.service.journal.sql.RememberedMapper;
import org.springframework.stereotype.Component;

/** Messages in the memory of lanes and lookouts, and how they leave it. All within the caller's transaction. */
@Component
public class RememberedMessages {

    /** A message in a lane's memory. */
    public record Place(String lane, UUID message) {}

    /**
     * What became of a message in a lane's memory.
     *
     * @param into the message it is a part of now; null if it is none
     */
    public record Settled(MessageId message, String lane, String fate, String reason, MessageId into) {}

    private final RememberedMapper remembered;
    private final OutcomeMapper outcomes;

    RememberedMessages(RememberedMapper remembered, OutcomeMapper outcomes) {
        this.remembered = remembered;
        this.outcomes = outcomes;
    }

    /** These are in the states of their keys from now on. */
    public void see(List<Place> places) {
        if (!places.isEmpty()) {
            remembered.see(column(places, Place::lane, String[]::new), column(places, Place::message, UUID[]::new));
        }
    }

    /** These are in no memory any more. */
    public void letGo(List<Place> places) {
        if (!places.isEmpty()) {
            remembered.letGo(column(places, Place::lane, String[]::new), column(places, Place::message, UUID[]::new));
        }
    }

    public void settle(List<Settled> settled, Instant at) {
        if (!settled.isEmpty()) {
            outcomes.insertRemembered(
                    column(settled, one -> one.message.value(), UUID[]::new),
                    column(settled, one -> one.message.received(), Instant[]::new),
                    column(settled, Settled::lane, String[]::new),
                    column(settled, Settled::fate, String[]::new),
                    column(settled, Settled::reason, String[]::new),
                    column(settled, one -> one.into == null ? null : one.into.value(), UUID[]::new),
                    at);
        }
    }
}
