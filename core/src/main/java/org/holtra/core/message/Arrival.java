package org.holtra.core.message;

import java.time.Instant;

/**
 * A message as it arrived.
 *
 * @param id the id the message will bear
 * @param inlet the name of the inlet it arrived at
 * @param contentType what the sender said the body is, or null
 * @param body the bytes, untouched; never null
 * @param idempotencyKey under which its inlet takes it once, however often it is sent; null if each is a message of its own
 * @param whole the arrival that this is a part of; null if it came by itself
 */
public record Arrival(
        MessageId id,
        String inlet,
        Transport transport,
        String contentType,
        byte[] body,
        String idempotencyKey,
        MessageId whole) {

    /** An arrival that came by itself, and as often as its sender sends it. */
    public Arrival(MessageId id, String inlet, Transport transport, String contentType, byte[] body) {
        this(id, inlet, transport, contentType, body, null, null);
    }

    public boolean isPart() {
        return whole != null;
    }

    public Instant received() {
        return id.received();
    }
}
