package org.holtra.core.setup;

import java.time.Duration;
import java.time.ZoneId;
import java.util.Map;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.content.Format;
import org.holtra.core.reading.time.TimeForm;

/**
 * A way in, compiled.
 *
 * @param closed whether it takes nothing until it is opened
 * @param at what its kind needs to know
 * @param connection the one it shares with others; null if it shares none
 */
public record Inlet(
        String name,
        String kind,
        boolean closed,
        Map<String, Object> at,
        SharedConnection connection,
        Contents contents,
        Identity identity,
        Timing timing,
        UnknownDevices unknown) {

    /**
     * How what comes is read.
     *
     * @param format null to go by the content type
     * @param payload null if there are no payloads to decode
     * @param meta what messages tell of their transport, by name
     * @param parts gives the list of the messages that come in one arrival; null if each arrival is one message
     * @param value names a bare number or text; null if none comes
     * @param ignore tells messages that are counted and not kept; null for none
     */
    public record Contents(
            Format format,
            Payload payload,
            Map<String, Expression> meta,
            Expression parts,
            PlainValue value,
            Condition ignore) {}

    /**
     * What a bare number or text is.
     *
     * @param field gives the name of the field
     * @param point gives the point of the device that it is a field of; null if it is of the device itself
     */
    public record PlainValue(Expression field, Expression point) {}

    /**
     * Bytes for a codec, inside the content.
     *
     * @param encoding {@code base64} or {@code hex}
     * @param port null if there are no ports
     * @param codec for devices whose model has none; or null
     */
    public record Payload(Expression bytes, String encoding, Expression port, Codec codec) {}

    /**
     * Who sent a message and as what.
     *
     * @param device gives the device's key; null if messages are of no device
     * @param hexadecimal whether keys are hexadecimal ids, to be brought to one way of writing
     * @param type null for {@code reading}
     * @param simulated tells the messages of simulated devices; null for none
     * @param sequence gives the device's own number for a message; null if it counts none
     * @param duplicates tells duplicates of one message; null if there are none
     */
    public record Identity(
            Expression device,
            boolean hexadecimal,
            Expression type,
            Condition simulated,
            Expression sequence,
            Duplicates duplicates) {}

    /**
     * @param same messages of one device for which this gives the same are duplicates of one
     * @param within so long after the first
     */
    public record Duplicates(Expression same, Duration within) {}

    /**
     * When a message's content was measured.
     *
     * @param time null for the time of arrival
     * @param zone of local times, where the device has none of its own
     */
    public record Timing(Expression time, TimeForm form, ZoneId zone) {}

    /**
     * What becomes of devices nobody knows.
     *
     * @param admit whether they are entered into the registry
     * @param model gives the model to enter; or null
     * @param facts to enter, by name
     */
    public record UnknownDevices(boolean admit, Expression model, Map<String, Expression> facts) {}

    /** The credential that it, or the connection it shares, is opened or checked with; or null. Every kind's form calls it so. */
    public String credential() {
        return connection == null ? (String) at.get("credential") : connection.credential();
    }
}
