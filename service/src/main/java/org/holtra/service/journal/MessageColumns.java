package org.holtra.service.journal;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.IntFunction;

/** Many messages, column by column, as one statement takes them. */
record MessageColumns(
        UUID[] id,
        Instant[] received,
        String[] inlet,
        String[] state,
        String[] reason,
        String[] device,
        Integer[] deviceRevision,
        Instant[] eventTime,
        String[] sort,
        Boolean[] simulated,
        Integer[] setupRevision,
        String[] lanes,
        Long[] sequence,
        String[] copyKey,
        UUID[] copyOf,
        byte[][] arrival,
        byte[][] body) {

    static MessageColumns of(List<StoredMessage> messages) {
        return new MessageColumns(
                column(messages, message -> message.id().value(), UUID[]::new),
                column(messages, message -> message.id().received(), Instant[]::new),
                column(messages, message -> message.arrival().inlet(), String[]::new),
                column(messages, StoredMessage::state, String[]::new),
                column(messages, StoredMessage::reason, String[]::new),
                column(messages, StoredMessage::device, String[]::new),
                column(messages, StoredMessage::deviceRevision, Integer[]::new),
                column(messages, StoredMessage::eventTime, Instant[]::new),
                column(messages, StoredMessage::sort, String[]::new),
                column(messages, StoredMessage::simulated, Boolean[]::new),
                column(messages, StoredMessage::setupRevision, Integer[]::new),
                column(messages, message -> String.join(",", message.lanes()), String[]::new),
                column(messages, StoredMessage::sequence, Long[]::new),
                column(messages, StoredMessage::copyKey, String[]::new),
                column(messages, StoredMessage::copyOf, UUID[]::new),
                column(messages, message -> ArrivalCodec.encode(message.arrival()), byte[][]::new),
                column(messages, message -> message.arrival().body(), byte[][]::new));
    }

    static <T, C> C[] column(List<T> rows, Function<T, C> value, IntFunction<C[]> array) {
        C[] column = array.apply(rows.size());
        for (int i = 0; i < column.length; i++) {
            column[i] = value.apply(rows.get(i));
        }
        return column;
    }
}
