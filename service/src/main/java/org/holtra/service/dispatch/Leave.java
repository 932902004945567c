package org.holtra.service.dispatch;

import java.time.Instant;
import org.holtra.core.delivery.Pace;

/** The leave to send that an outlet's runner has in hand. Guarded by the runner. */
final class Leave {

    private Pace.Grant grant;
    private long left;
    private Instant next = Instant.MIN;
    private boolean asking;

    /** Whether a message may go now. */
    boolean holds(Instant now) {
        return left > 0 && !next.isAfter(now);
    }

    /** One goes. */
    void spend() {
        left--;
        next = next.plus(grant.each());
    }

    /** Whether leave should be asked for; true once until it is answered. */
    boolean mayAsk() {
        if (left > 0 || asking) {
            return false;
        }
        asking = true;
        return true;
    }

    void answered(Pace.Grant granted) {
        asking = false;
        if (granted != null && granted.messages() > 0) {
            grant = granted;
            left = granted.messages();
            next = granted.first();
        }
    }

    /** What was granted by another configuration is no longer good. */
    void forget() {
        left = 0;
    }
}
