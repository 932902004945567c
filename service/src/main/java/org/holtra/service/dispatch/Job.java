package org.holtra.service.dispatch;

import org.holtra.service.journal.Delivery;

/**
 * A delivery in the dispatcher's hands.
 *
 * @param data of its message as read, or null to read them again
 */
record Job(Delivery delivery, Object data) {

    long bytes() {
        return delivery.message().arrival().body().length;
    }
}
