package org.holtra.service.dispatch;

import java.time.Instant;
import org.holtra.core.delivery.Batch;

/** Since when the first message of the next batch has waited for others. Guarded by its runner. */
final class Gathering {

    private Instant since;

    /** Whether there is enough for a batch, the first has waited long enough, or it was tried before. */
    boolean isReady(LaneQueues queues, Batch batch, Instant now) {
        if (queues.isEmpty()) {
            since = null;
            return false;
        }
        if (since == null) {
            since = now;
        }
        boolean waitedBefore = queues.peek()
                .filter(task -> task.delivery().owed().attempts() > 0)
                .isPresent();
        return waitedBefore || queues.size() >= batch.messages() || !now.isBefore(since.plus(batch.patience()));
    }

    void taken() {
        since = null;
    }
}
