package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.List;
import java.util.Random;
import java.util.UUID;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Transport;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;

/** Deliveries as the dispatcher has them in hand. */
final class Tasks {

    private static final MessageIds IDS = new MessageIds(Instant::now, new Random(1));

    private Tasks() {}

    /** @param orderKey null if it stands in no order */
    static Task of(String lane, String orderKey, int bytes) {
        Arrival arrival = new Arrival(IDS.next(), "i", Transport.of("127.0.0.1", "/in/i"), null, new byte[bytes]);
        StoredMessage message = new StoredMessage(
                arrival,
                StoredMessage.READ,
                null,
                orderKey,
                null,
                arrival.received(),
                "reading",
                false,
                1,
                List.of(lane),
                null,
                null,
                null);
        Delivery.Owed owed = new Delivery.Owed(
                UUID.randomUUID(),
                arrival.id(),
                lane,
                "o",
                orderKey,
                0,
                arrival.received(),
                null,
                null,
                null,
                Delivery.Part.WHOLE,
                orderKey);
        return new Task(new Delivery(owed, message), null, new UUID(0, 1));
    }

    static Task of(String lane, String orderKey) {
        return of(lane, orderKey, 10);
    }
}
