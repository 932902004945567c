package org.holtra.service.reading;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.core.memory.Split;
import org.holtra.core.memory.Step;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.Fields;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.entry.StoredMessage;
import tools.jackson.databind.json.JsonMapper;

/**
 * A message that a lane with memory makes, as the journal keeps it. Its id is the same whenever and wherever it is made.
 *
 * @param key that it is made for
 * @param of whose messages it is made of
 */
public record LaneMade(String lane, String key, Whose of, int setupRevision) {

    private static final JsonMapper JSON = JsonMapper.shared();

    public MessageId id(Step.Name name) {
        return MessageId.derived(name.stamp(), List.of(lane, key, name.text()));
    }

    public StoredMessage message(Step.Made made) {
        return message(
                id(made.name()), JSON.writeValueAsBytes(Fields.nested(made.data())), made.note(), made.at(), null);
    }

    /** @param number of the item in the message that held it, from 1 */
    public StoredMessage item(MessageId parent, Split.Item item, int number, int count) {
        return message(
                MessageId.derived(parent.received(), List.of(lane, parent.toString(), "" + number)),
                JSON.writeValueAsBytes(item.data()),
                "item " + number + " of " + count + " of a message",
                item.at(),
                parent.value());
    }

    /** @param parent null if it is made of several */
    private StoredMessage message(MessageId id, byte[] body, String note, Instant at, UUID parent) {
        Arrival arrival = new Arrival(
                id, Setup.OWN_INLET, Transport.of("", "lane " + lane).with("key", key), "application/json", body);
        return new StoredMessage(
                arrival,
                StoredMessage.MADE,
                note,
                of.device(),
                null,
                at,
                "reading",
                of.simulated(),
                setupRevision,
                List.of(lane),
                null,
                null,
                parent);
    }
}
