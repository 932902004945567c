package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Replay;
import org.holtra.service.journal.entry.StoredMessage;

/** An owed delivery just claimed. */
public record ClaimedRow(
        UUID id,
        UUID message,
        Instant received,
        String lane,
        String outlet,
        String device,
        int attempts,
        Instant due,
        Instant givesUp,
        byte[] frozen,
        String reason,
        int correction,
        String point,
        String orderKey,
        long sequence,
        String replay,
        boolean late) {

    public Delivery of(StoredMessage stored) {
        return new Delivery(
                new Delivery.Owed(
                        id,
                        new MessageId(message),
                        lane,
                        outlet,
                        device,
                        attempts,
                        due,
                        givesUp,
                        frozen,
                        reason,
                        new Delivery.Part(point, correction, Replay.read(replay), late),
                        orderKey),
                stored);
    }
}
