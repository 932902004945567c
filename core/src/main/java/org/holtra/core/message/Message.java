package org.holtra.core.message;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * An arrival that has been read.
 *
 * @param eventTime when it was measured or happened; the time of arrival where the message does not say
 * @param data what was sent, as plain values: {@code Map}, {@code List}, {@code String}, {@code Double}, {@code Long},
 *     {@code Boolean} and CEL's null
 * @param meta what reading found out beside the data, such as the gateway and the envelope of a payload
 * @param note something a person should know about how it was read, or null
 */
public record Message(
        Arrival arrival, Origin origin, Instant eventTime, Object data, Map<String, Object> meta, String note) {

    /** The same, with something more in its meta. */
    public Message marked(String name, Object value) {
        Map<String, Object> more = new LinkedHashMap<>(meta);
        more.put(name, value);
        return new Message(arrival, origin, eventTime, data, more, note);
    }

    public MessageId id() {
        return arrival.id();
    }

    public String device() {
        return origin.device();
    }

    public MessageType type() {
        return origin.type();
    }

    public boolean simulated() {
        return origin.simulated();
    }
}
