package org.holtra.service.brokers;

import java.util.Map;

/**
 * A message that the broker sent.
 *
 * @param retained whether the broker had kept it, and sent it because of a new subscription
 * @param contentType as its publisher said, or null (there is none in MQTT 3.1.1)
 * @param properties its user properties, by name; of several of one name the last
 * @param acknowledge tells the broker that it is kept; does nothing once the connection is gone
 */
public record Incoming(
        String topic,
        byte[] payload,
        int qos,
        boolean retained,
        String contentType,
        Map<String, String> properties,
        Runnable acknowledge) {}
