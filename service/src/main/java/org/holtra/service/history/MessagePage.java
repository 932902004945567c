package org.holtra.service.history;

import java.util.List;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.entry.StoredMessage;

/**
 * Messages of the past: as many as were asked for, or fewer where they are large.
 *
 * @param more whether there may be more behind them
 */
public record MessagePage(List<StoredMessage> messages, boolean more) {

    public static final MessagePage EMPTY = new MessagePage(List.of(), false);

    /** What the next page comes after; null if this is the last. */
    public MessageId last() {
        return more ? messages.getLast().id() : null;
    }
}
