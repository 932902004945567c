package org.holtra.service.dispatch;

import java.util.Optional;
import java.util.UUID;
import org.holtra.core.message.Message;
import org.holtra.service.journal.entry.Delivery;

/**
 * A delivery in the dispatcher's hands.
 *
 * @param message as it was read, or null to read it again
 * @param owner the id of this node that it was taken under; if that has been given up since, it is another's
 */
record Task(Delivery delivery, Message message, UUID owner) {

    long bytes() {
        return delivery.message().arrival().body().length;
    }

    String lane() {
        return delivery.owed().lane();
    }

    /** Null if it stands in none. */
    String orderKey() {
        return delivery.owed().orderKey();
    }

    String device() {
        return delivery.owed().device();
    }

    /** What leaves one after the other. */
    record Order(String lane, String key) {}

    /** Empty if it stands in none. */
    Optional<Order> order() {
        return Optional.ofNullable(orderKey()).map(key -> new Order(lane(), key));
    }
}
