package org.holtra.service.dispatch;

import org.holtra.core.message.Message;
import org.holtra.service.journal.Delivery;

/**
 * A delivery in the dispatcher's hands.
 *
 * @param message as it was read, or null to read it again
 */
record Job(Delivery delivery, Message message) {

    long bytes() {
        return delivery.message().arrival().body().length;
    }

    String lane() {
        return delivery.owed().lane();
    }

    /** Null if it stands in none. */
    String line() {
        return delivery.owed().line();
    }

    String device() {
        return delivery.owed().device();
    }
}
