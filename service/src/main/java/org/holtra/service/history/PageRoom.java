package org.holtra.service.history;

import java.util.ArrayList;
import java.util.List;
import org.apache.ibatis.session.ResultContext;
import org.apache.ibatis.session.ResultHandler;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.journal.sql.MessageRow;

/** Takes messages in as they come from the database, until their number or their bytes are enough for one page. */
final class PageRoom implements ResultHandler<MessageRow> {

    /** The last message may go beyond it. */
    static final long BYTES = 16 << 20;

    private final int limit;
    private final List<StoredMessage> messages = new ArrayList<>();
    private long bytes;

    PageRoom(int limit) {
        this.limit = limit;
    }

    @Override
    public void handleResult(ResultContext<? extends MessageRow> context) {
        MessageRow row = context.getResultObject();
        messages.add(row.message());
        bytes += row.arrival().length + row.body().length;
        if (isFull()) {
            context.stop();
        }
    }

    boolean isFull() {
        return messages.size() >= limit || bytes >= BYTES;
    }

    /** How many more may come. */
    int left() {
        return limit - messages.size();
    }

    MessagePage page() {
        return new MessagePage(List.copyOf(messages), isFull());
    }
}
