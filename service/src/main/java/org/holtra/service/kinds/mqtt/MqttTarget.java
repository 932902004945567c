package org.holtra.service.kinds.mqtt;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.DurationText;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.Outgoing;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;

/**
 * How an outlet publishes.
 *
 * @param base stands before each topic, and ends with a slash; empty for none
 * @param topic for messages whose shape names none; null if there is none
 * @param expiry after which the broker drops a message; null for never
 */
record MqttTarget(String base, String topic, int qos, boolean retain, Duration expiry, Duration timeout) {

    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(10);

    static MqttTarget of(Outlet outlet) {
        Map<String, Object> to = outlet.to();
        return new MqttTarget(
                base((String) to.get("base")),
                (String) to.get("topic"),
                to.get("qos") instanceof Number number ? number.intValue() : 1,
                Boolean.TRUE.equals(to.get("retain")),
                to.get("expiry") instanceof String text ? DurationText.parse(text) : null,
                to.get("timeout") instanceof String text ? DurationText.parse(text) : USUAL_TIMEOUT);
    }

    /** With or without its slash, it is one level above the topic. */
    private static String base(String said) {
        return said == null || said.isEmpty() ? "" : said.endsWith("/") ? said : said + "/";
    }

    /** Empty if neither the shape nor the outlet names a topic. */
    Optional<Outgoing> message(Request request) {
        Content content = request.content();
        String shaped = content.envelope().text(MqttShape.TOPIC);
        String named = shaped.isEmpty() ? topic : shaped;
        if (named == null) {
            return Optional.empty();
        }
        Map<String, String> properties = new LinkedHashMap<>();
        content.envelope()
                .named(MqttShape.PROPERTIES)
                .forEach(property -> properties.put(property.getKey(), property.getValue()));
        properties.put("idempotency-key", request.idempotencyKey());
        properties.put("traceparent", request.traceparent());
        marks(request.marks(), properties);
        return Optional.of(new Outgoing(
                base + (base.isEmpty() || !named.startsWith("/") ? named : named.substring(1)),
                content.body() == null ? new byte[0] : content.body(),
                qos,
                retain,
                expiry,
                content.contentType(),
                properties));
    }

    private static void marks(Request.Marks marks, Map<String, String> properties) {
        if (marks.corrects() != null) {
            properties.put("holtra-corrects", marks.corrects());
        }
        if (marks.replays() != null) {
            properties.put("holtra-replays", marks.replays());
        }
        if (marks.trial()) {
            properties.put("holtra-trial", "true");
        }
        if (marks.simulated()) {
            properties.put("holtra-simulated", "true");
        }
        if (marks.late()) {
            properties.put("holtra-late", "true");
        }
    }

    /** As people are shown it. */
    Exchange exchange(Outgoing message, Broker broker) {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("QoS", Integer.toString(message.qos()));
        if (message.retain()) {
            fields.put("retain", "yes");
        }
        if (broker.version() == 3) {
            return new Exchange("PUBLISH " + message.topic(), fields);
        }
        if (message.expiry() != null) {
            fields.put("expires after", message.expiry().toSeconds() + " s");
        }
        if (message.contentType() != null) {
            fields.put("content type", message.contentType());
        }
        fields.putAll(message.properties());
        return new Exchange("PUBLISH " + message.topic(), fields);
    }
}
