package org.holtra.core.message;

import java.time.Instant;
import java.util.Map;

/**
 * What came, as it came. Headers carry lower-case names, and those that hold secrets or signatures are already out.
 *
 * @param id the id the message will bear
 * @param inlet the name of the inlet it came in by
 * @param remote the sender's address as far as the transport knows it
 * @param path where at the inlet it was sent to, with its query; empty where the transport has no such thing
 * @param contentType what the sender said the body is, or null
 * @param body the bytes, untouched; never null
 * @param idempotencyKey under which its inlet takes it once, however often it is sent; null if each is a message of its own
 */
public record Arrival(
        MessageId id,
        String inlet,
        String remote,
        String path,
        Map<String, String> headers,
        String contentType,
        byte[] body,
        String idempotencyKey) {

    /** An arrival that may come as often as its sender sends it. */
    public Arrival(
            MessageId id,
            String inlet,
            String remote,
            String path,
            Map<String, String> headers,
            String contentType,
            byte[] body) {
        this(id, inlet, remote, path, headers, contentType, body, null);
    }

    public Instant received() {
        return id.received();
    }
}
