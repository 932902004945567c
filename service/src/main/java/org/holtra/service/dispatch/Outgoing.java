package org.holtra.service.dispatch;

import java.util.List;
import org.holtra.core.shape.Content;
import org.holtra.service.journal.Delivery;

/**
 * What is to be sent.
 *
 * @param idempotencyKey the same for every attempt of the delivery
 * @param traceparent of this attempt, as W3C Trace Context has it
 * @param attempt counts the attempts of the delivery, from 1
 * @param together the keys of the deliveries whose contents stand in it, in order; empty where an outlet sends each by
 *     itself
 */
public record Outgoing(
        Content content, String idempotencyKey, String traceparent, int attempt, Marks marks, List<String> together) {

    /**
     * What a destination is told about a delivery beside its content.
     *
     * @param simulated whether the message comes from a simulated device
     * @param late whether it came after what it belongs to was closed
     * @param trial whether a person sends it to see what comes back
     * @param corrects the key of the delivery that this one corrects, or null
     * @param replays the key of the delivery that this one makes again, or null
     */
    public record Marks(boolean simulated, boolean late, boolean trial, String corrects, String replays) {

        static Marks of(Delivery delivery) {
            Delivery.Part part = delivery.owed().part();
            return new Marks(
                    delivery.message().simulated(),
                    part.late(),
                    false,
                    part.correction() == 0 ? null : delivery.originalKey(),
                    part.replay() == null ? null : delivery.originalKey());
        }

        public static Marks tried(boolean simulated, boolean late, boolean trial) {
            return new Marks(simulated, late, trial, null, null);
        }
    }

    /** A request in which this one stands with others, or alone where others could. */
    Outgoing in(Content joined, String key, int leastAttempt, List<String> keys) {
        return new Outgoing(joined, key, traceparent, leastAttempt, marks, keys);
    }
}
