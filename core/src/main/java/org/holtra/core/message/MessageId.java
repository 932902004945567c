package org.holtra.core.message;

import java.time.Instant;
import java.util.HexFormat;
import java.util.UUID;

/**
 * The id of a message: a UUID of version 7 (RFC 9562, section 5.7), so that ids sort by the time of arrival and an id
 * alone tells the millisecond, and with it the day's table, in which the message is kept.
 */
public record MessageId(UUID value) implements Comparable<MessageId> {

    /** @throws IllegalArgumentException if the UUID is not of version 7 */
    public MessageId {
        if (value.version() != 7) {
            throw new IllegalArgumentException(
                    "a message id is a UUID of version 7, this is one of version " + value.version());
        }
    }

    /** @throws IllegalArgumentException if the text is not a UUID of version 7 */
    public static MessageId parse(String text) {
        return new MessageId(UUID.fromString(text));
    }

    /** When the message arrived, in whole milliseconds. */
    public Instant received() {
        return Instant.ofEpochMilli(value.getMostSignificantBits() >>> 16);
    }

    /** The same sixteen bytes as 32 hexadecimal digits, as W3C Trace Context wants a trace id. */
    public String traceId() {
        HexFormat hex = HexFormat.of();
        return hex.toHexDigits(value.getMostSignificantBits()) + hex.toHexDigits(value.getLeastSignificantBits());
    }

    @Override
    public int compareTo(MessageId other) {
        int high = Long.compareUnsigned(value.getMostSignificantBits(), other.value.getMostSignificantBits());
        return high != 0
                ? high
                : Long.compareUnsigned(value.getLeastSignificantBits(), other.value.getLeastSignificantBits());
    }

    @Override
    public String toString() {
        return value.toString();
    }
}
