package org.holtra.service.journal.entry;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/**
 * That a lane with memory took a message, or that a lookout looks at it.
 *
 * @param lane its name; for a lookout, {@link #LOOKOUT} and its name
 * @param key that it is remembered under
 * @param zone of the lane's intervals for it
 */
public record Remembered(String lane, String key, String zone) {

    /** Lanes' names hold no stroke. */
    public static final String LOOKOUT = "lookout/";

    public static Remembered byLookout(String name, String key) {
        return new Remembered(LOOKOUT + name, key, "Z");
    }

    public boolean isLookout() {
        return isLookout(lane);
    }

    /** Whether a lookout remembers under this name. */
    public static boolean isLookout(String name) {
        return name.startsWith(LOOKOUT);
    }

    public Row of(MessageId message) {
        return new Row(lane, key, zone, message);
    }

    /** The lookout that remembers under this name. */
    public static String lookout(String name) {
        return name.substring(LOOKOUT.length());
    }

    public record Row(String lane, String key, String zone, MessageId message) {}

    /** Rows, a column each. */
    public record Columns(String[] lane, String[] key, String[] zone, UUID[] message, Instant[] received) {

        public static Columns of(List<Row> rows) {
            return new Columns(
                    column(rows, Row::lane, String[]::new),
                    column(rows, Row::key, String[]::new),
                    column(rows, Row::zone, String[]::new),
                    column(rows, row -> row.message.value(), UUID[]::new),
                    column(rows, row -> row.message.received(), Instant[]::new));
        }
    }
}
