package org.holtra.service.journal.entry;

import java.util.List;
import java.util.UUID;

/**
 * Which dead letters are meant: all that fit what is given.
 *
 * @param deliveries these and no others; null for any
 * @param all must be true to mean every dead letter there is
 */
public record DeadChoice(List<UUID> deliveries, String lane, String outlet, String cause, String device, Boolean all) {

    /** Whether it says which, and does not mean all by a slip. */
    public boolean isMeant() {
        return Boolean.TRUE.equals(all)
                || lane != null
                || outlet != null
                || cause != null
                || device != null
                || deliveries != null && !deliveries.isEmpty();
    }
}
