package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.entry.ArrivalCodec;
import org.holtra.service.journal.entry.StoredMessage;

/** A row of the table {@code message}. */
public record MessageRow(
        UUID id,
        String inlet,
        String state,
        String reason,
        String device,
        Integer deviceRevision,
        Instant eventTime,
        String type,
        boolean simulated,
        int setupRevision,
        String lanes,
        Long sequence,
        String duplicateKey,
        UUID duplicateOf,
        Integer parts,
        byte[] arrival,
        byte[] body) {

    public StoredMessage message() {
        return new StoredMessage(
                ArrivalCodec.decode(new MessageId(id), inlet, arrival, body),
                state,
                reason,
                device,
                deviceRevision,
                eventTime,
                type,
                simulated,
                setupRevision,
                lanes.isEmpty() ? List.of() : List.of(lanes.split(",")),
                sequence,
                duplicateKey,
                duplicateOf,
                parts);
    }
}
