package org.holtra.core.message;

import java.time.Instant;

/**
 * An arrival that has been read.
 *
 * @param device the key of the device that sent it, or null where the inlet names none
 * @param eventTime when it was measured or happened; the time of arrival where the message does not say
 * @param simulated whether a simulated device sent it
 * @param data what was sent, as plain values: {@code Map}, {@code List}, {@code String}, {@code Double}, {@code Long},
 *     {@code Boolean} and CEL's null
 * @param note something a person should know about how it was read, or null
 */
public record Message(
        Arrival arrival, String device, Instant eventTime, Sort sort, boolean simulated, Object data, String note) {

    public MessageId id() {
        return arrival.id();
    }
}
