package org.holtra.service.brokers;

import java.time.Duration;
import java.util.Map;
import org.holtra.core.text.DurationText;

/**
 * What a client tells the broker of itself when it connects.
 *
 * @param clean whether the broker forgets it when the connection ends
 * @param expiry how long the broker otherwise remembers it
 * @param receiveMaximum how many messages the broker may send before the first is acknowledged; by it the broker is made to wait
 * @param will what the broker publishes when the connection breaks; null for nothing
 */
public record Session(
        String clientId, boolean clean, Duration expiry, Duration keepAlive, int receiveMaximum, Outgoing will) {

    private static final Duration USUAL_EXPIRY = Duration.ofDays(1);
    private static final Duration USUAL_KEEP_ALIVE = Duration.ofSeconds(30);
    private static final int USUAL_RECEIVE_MAXIMUM = 256;

    /**
     * @param settings of the inlet or outlet
     * @param connection settings of the connection
     * @param usualId its client id where the setup names none
     */
    public static Session of(
            Map<String, Object> settings, Map<String, Object> connection, String usualId, boolean clean) {
        return new Session(
                settings.get("clientId") instanceof String id ? id : usualId,
                clean,
                span(settings.get("expiry"), USUAL_EXPIRY),
                span(connection.get("keepAlive"), USUAL_KEEP_ALIVE),
                settings.get("receiveMaximum") instanceof Number number ? number.intValue() : USUAL_RECEIVE_MAXIMUM,
                will(settings.get("will")));
    }

    private static Duration span(Object said, Duration usual) {
        return said instanceof String text ? DurationText.parse(text) : usual;
    }

    private static Outgoing will(Object said) {
        if (!(said instanceof Map<?, ?> will)) {
            return null;
        }
        return new Outgoing(
                String.valueOf(will.get("topic")),
                String.valueOf(will.get("text")).getBytes(java.nio.charset.StandardCharsets.UTF_8),
                will.get("qos") instanceof Number qos ? qos.intValue() : 1,
                Boolean.TRUE.equals(will.get("retain")),
                null,
                null,
                Map.of());
    }

    public Session named(String id) {
        return new Session(id, clean, expiry, keepAlive, receiveMaximum, will);
    }

    /** The same with another receive maximum. */
    public Session receiving(int maximum) {
        return new Session(clientId, clean, expiry, keepAlive, maximum, will);
    }

    /** The same with another will. */
    public Session willing(Outgoing next) {
        return new Session(clientId, clean, expiry, keepAlive, receiveMaximum, next);
    }

    /** The same under another id, remembered by nobody: for looking at what a broker has. */
    public Session passing(String id) {
        return new Session(id, true, Duration.ZERO, keepAlive, receiveMaximum, null);
    }
}
