package org.holtra.service.journal.sql;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.service.journal.entry.ArrivalCodec;
import org.holtra.service.journal.entry.StoredMessage;

/** Many messages, column by column, as one statement takes them. */
public record MessageColumns(
        UUID[] id,
        Instant[] received,
        String[] inlet,
        String[] state,
        String[] reason,
        String[] device,
        Integer[] deviceRevision,
        Instant[] eventTime,
        String[] type,
        Boolean[] simulated,
        Integer[] setupRevision,
        String[] lanes,
        Long[] sequence,
        String[] duplicateKey,
        UUID[] duplicateOf,
        UUID[] whole,
        Integer[] parts,
        byte[][] arrival,
        byte[][] body) {

    public static MessageColumns of(List<StoredMessage> messages) {
        return new MessageColumns(
                column(messages, message -> message.id().value(), UUID[]::new),
                column(messages, message -> message.id().received(), Instant[]::new),
                column(messages, message -> message.arrival().inlet(), String[]::new),
                column(messages, StoredMessage::state, String[]::new),
                column(messages, StoredMessage::reason, String[]::new),
                column(messages, StoredMessage::device, String[]::new),
                column(messages, StoredMessage::deviceRevision, Integer[]::new),
                column(messages, StoredMessage::eventTime, Instant[]::new),
                column(messages, StoredMessage::type, String[]::new),
                column(messages, StoredMessage::simulated, Boolean[]::new),
                column(messages, StoredMessage::setupRevision, Integer[]::new),
                column(messages, message -> String.join(",", message.lanes()), String[]::new),
                column(messages, StoredMessage::sequence, Long[]::new),
                column(messages, StoredMessage::duplicateKey, String[]::new),
                column(messages, StoredMessage::duplicateOf, UUID[]::new),
                column(
                        messages,
                        message -> message.arrival().isPart()
                                ? message.arrival().whole().value()
                                : null,
                        UUID[]::new),
                column(messages, StoredMessage::parts, Integer[]::new),
                column(messages, message -> ArrivalCodec.encode(message.arrival()), byte[][]::new),
                column(messages, message -> message.arrival().body(), byte[][]::new));
    }
}
