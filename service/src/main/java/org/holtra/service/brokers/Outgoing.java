package org.holtra.service.brokers;

import java.time.Duration;
import java.util.Map;

/**
 * A message for the broker.
 *
 * @param expiry after which the broker drops it undelivered; null for never
 * @param contentType or null
 * @param properties user properties, by name
 */
public record Outgoing(
        String topic,
        byte[] payload,
        int qos,
        boolean retain,
        Duration expiry,
        String contentType,
        Map<String, String> properties) {}
