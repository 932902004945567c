package org.holtra.service.journal.sql;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Replay;

/** Many owed deliveries, column by column. */
public record OwedColumns(
        UUID[] id,
        UUID[] message,
        Instant[] received,
        String[] lane,
        String[] outlet,
        String[] device,
        Integer[] attempts,
        Instant[] due,
        Instant[] givesUp,
        byte[][] frozen,
        String[] reason,
        Integer[] correction,
        String[] point,
        String[] orderKey,
        String[] replay,
        Boolean[] late) {

    public static OwedColumns of(List<Delivery.Owed> owed) {
        return new OwedColumns(
                column(owed, Delivery.Owed::id, UUID[]::new),
                column(owed, one -> one.message().value(), UUID[]::new),
                column(owed, one -> one.message().received(), Instant[]::new),
                column(owed, Delivery.Owed::lane, String[]::new),
                column(owed, Delivery.Owed::outlet, String[]::new),
                column(owed, Delivery.Owed::device, String[]::new),
                column(owed, Delivery.Owed::attempts, Integer[]::new),
                column(owed, Delivery.Owed::due, Instant[]::new),
                column(owed, Delivery.Owed::givesUp, Instant[]::new),
                column(owed, Delivery.Owed::frozen, byte[][]::new),
                column(owed, Delivery.Owed::reason, String[]::new),
                column(owed, one -> one.part().correction(), Integer[]::new),
                column(owed, one -> one.part().point(), String[]::new),
                column(owed, Delivery.Owed::orderKey, String[]::new),
                column(owed, one -> Replay.written(one.part().replay()), String[]::new),
                column(owed, one -> one.part().late(), Boolean[]::new));
    }
}
