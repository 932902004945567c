package org.holtra.service.dispatch;

import java.util.List;
import org.holtra.core.shape.Content;
import org.holtra.service.journal.entry.Delivery;

/**
 * What is to be sent.
 *
 * @param parts what stands in it, in order; alike but for their bodies. An outlet that sends each by itself has one
 * @param isBatch whether others could stand in it: then the destination expects a batch, though it be of one
 * @param idempotencyKey the same for every attempt of the same parts
 * @param traceparent of this attempt, as W3C Trace Context has it
 * @param attempt counts the attempts of the delivery, from 1; of several, those of the one with the fewest
 * @param presented in place of the outlet's credential; null for that
 */
public record Request(
        List<Part> parts,
        boolean isBatch,
        String idempotencyKey,
        String traceparent,
        int attempt,
        Marks marks,
        Presented presented) {

    /**
     * The content of one delivery.
     *
     * @param idempotencyKey the same for every attempt of the delivery
     */
    public record Part(Content content, String idempotencyKey) {}

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

    /** What goes by itself. */
    public static Request of(Part part, String traceparent, int attempt, Marks marks) {
        return new Request(List.of(part), false, part.idempotencyKey(), traceparent, attempt, marks, null);
    }

    /** The same with a credential in place of the outlet's; null for that. */
    public Request presenting(Presented other) {
        return new Request(parts, isBatch, idempotencyKey, traceparent, attempt, marks, other);
    }

    /** What is the same for all parts, and the body of the first. */
    public Content content() {
        return parts.getFirst().content();
    }

    /** The same as a batch of one. */
    Request asBatch() {
        return new Request(parts, true, idempotencyKey, traceparent, attempt, marks, presented);
    }

    /** The idempotency keys of its parts. */
    public List<String> keys() {
        return parts.stream().map(Part::idempotencyKey).toList();
    }
}
