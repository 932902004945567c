package org.holtra.service.intake;

import java.time.Instant;
import java.util.UUID;
import org.holtra.core.picking.Picker;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;

/** What a lane owes for a message it took. */
final class Owing {

    private Owing() {}

    static Delivery.Owed first(UUID id, StoredMessage message, Picker.Take take) {
        return owed(id, message, take, message.id().received(), 0);
    }

    /** @param correction 0 if the lane has not taken the message before */
    static Delivery.Owed owed(UUID id, StoredMessage message, Picker.Take take, Instant due, int correction) {
        return new Delivery.Owed(
                id,
                message.id(),
                take.lane().name(),
                take.lane().outlet(),
                message.device(),
                0,
                due,
                null,
                null,
                null,
                new Delivery.Part(take.point(), correction, null, false),
                take.lane().ordered() ? message.device() : null);
    }
}
