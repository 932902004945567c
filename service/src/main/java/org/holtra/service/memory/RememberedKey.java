package org.holtra.service.memory;

import java.time.Instant;

/**
 * What is remembered of a key.
 *
 * @param lane the lane's name; for a lookout, see {@link org.holtra.service.journal.entry.Remembered#LOOKOUT}
 * @param zone of the lane's intervals for it
 * @param operation in words that change when what is done with the key changes; empty for a new key
 * @param state JSON
 * @param due when something is to be done though nothing comes; null if nothing is
 */
public record RememberedKey(
        String lane,
        String key,
        String zone,
        String operation,
        String state,
        String device,
        boolean simulated,
        Instant due) {

    public boolean isNew() {
        return operation.isEmpty();
    }
}
