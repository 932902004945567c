package org.holtra.service.history;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/**
 * Which messages to list. What is null does not matter.
 *
 * @param state {@code unreadable}, {@code unrouted}, {@code waiting}, {@code dead} or {@code delivered}
 * @param contains text in the content as it came, whatever its case
 * @param before only those older than this one
 */
public record MessageQuery(
        Instant from,
        Instant to,
        UUID before,
        String inlet,
        String device,
        String lane,
        String type,
        String state,
        Boolean simulated,
        String contains,
        int limit) {

    /** Of an inlet, the newest first. */
    public static MessageQuery ofInlet(String inlet, Instant from, Instant to, int limit) {
        return new MessageQuery(from, to, null, inlet, null, null, null, null, null, null, limit);
    }

    /** What a device sent as readings, the newest first. */
    public static MessageQuery ofReadings(String device, Instant from, Instant to, UUID before, int limit) {
        return new MessageQuery(from, to, before, null, device, null, "reading", null, null, null, limit);
    }

    /** The same within another span. */
    MessageQuery within(Instant start, Instant end, int most) {
        return new MessageQuery(start, end, before, inlet, device, lane, type, state, simulated, contains, most);
    }

    /** What the body is searched for, as bytes. */
    public byte[] containsBytes() {
        return contains == null ? null : contains.getBytes(StandardCharsets.UTF_8);
    }

    public Instant beforeReceived() {
        return before == null ? null : new MessageId(before).received();
    }
}
