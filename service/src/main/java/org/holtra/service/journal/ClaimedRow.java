package org.holtra.service.journal;

import java.time.Instant;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/** An owed delivery just claimed, with its message. */
public record ClaimedRow(
        UUID owedId,
        String lane,
        String outlet,
        String owedDevice,
        int attempts,
        Instant due,
        Instant givesUp,
        byte[] frozen,
        String owedReason,
        int correction,
        String point,
        String line,
        String replay,
        boolean late,
        long place,
        UUID id,
        String inlet,
        String state,
        String reason,
        String device,
        Integer deviceRevision,
        Instant eventTime,
        String sort,
        boolean simulated,
        int setupRevision,
        String lanes,
        Long sequence,
        String copyKey,
        UUID copyOf,
        byte[] arrival,
        byte[] body) {

    Delivery delivery() {
        MessageRow message = new MessageRow(
                id,
                inlet,
                state,
                reason,
                device,
                deviceRevision,
                eventTime,
                sort,
                simulated,
                setupRevision,
                lanes,
                sequence,
                copyKey,
                copyOf,
                arrival,
                body);
        return new Delivery(
                new Delivery.Owed(
                        owedId,
                        new MessageId(id),
                        lane,
                        outlet,
                        owedDevice,
                        attempts,
                        due,
                        givesUp,
                        frozen,
                        owedReason,
                        new Delivery.Part(point, correction, replay, late),
                        line),
                message.message());
    }
}
