package org.holtra.core.message;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.HexFormat;
import java.util.List;
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

    /** An id lower than that of any message that came from this instant on, and higher than those before its millisecond. */
    public static MessageId before(Instant instant) {
        return new MessageId(new UUID(instant.minusMillis(1).toEpochMilli() << 16 | 0x7fff, -1L));
    }

    /**
     * The id of something that follows from other things: the same for the same time and words, and for no others. Its
     * bits beyond the time are those of a hash in place of random ones (RFC 9562, section 5.7).
     *
     * @param stamp that stands for the time of arrival; before 1970 it counts as the beginning of that
     */
    public static MessageId derived(Instant stamp, List<String> words) {
        MessageDigest digest;
        try {
            digest = MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
        for (String word : words) {
            digest.update(word.getBytes(StandardCharsets.UTF_8));
            digest.update((byte) 0);
        }
        ByteBuffer hash = ByteBuffer.wrap(digest.digest());
        long millis = Math.max(0, stamp.toEpochMilli()) & 0xffff_ffff_ffffL;
        return new MessageId(new UUID(
                millis << 16 | 0x7000 | hash.getLong() & 0xfff, 0x8000_0000_0000_0000L | hash.getLong() >>> 2));
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
