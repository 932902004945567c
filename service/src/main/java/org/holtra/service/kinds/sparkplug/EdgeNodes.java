package org.holtra.service.kinds.sparkplug;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.reading.sparkplug.EdgeNode;
import org.holtra.core.reading.sparkplug.EdgeNode.Outcome;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.SparkplugTopic;

/** The edge nodes that an inlet hears, and what their messages become. Used by one thread at a time. */
final class EdgeNodes {

    /** A node needs a while to be born, and sends on meanwhile. */
    private static final Duration REBIRTH_AGAIN = Duration.ofSeconds(10);

    private static final int MOST = 100_000;

    /**
     * What is to be done.
     *
     * @param messages to take, in their order
     * @param born what a birth says of its metrics
     * @param rebirth why a new birth is to be asked for; null if none is
     */
    record Heard(List<EdgeMessage> messages, List<Metric> born, String rebirth) {

        private static final Heard NOTHING = new Heard(List.of(), List.of(), null);
    }

    private final MetricChoice choice;
    private final Map<String, EdgeNode> nodes = new HashMap<>();
    private final Map<String, Instant> asked = new HashMap<>();

    EdgeNodes(MetricChoice choice) {
        this.choice = choice;
    }

    int online() {
        return (int) nodes.values().stream().filter(EdgeNode::isOnline).count();
    }

    Heard hear(SparkplugTopic topic, Payload payload, Instant now) {
        if (!nodes.containsKey(topic.nodeKey()) && nodes.size() >= MOST) {
            return Heard.NOTHING;
        }
        EdgeNode node = nodes.computeIfAbsent(topic.nodeKey(), key -> new EdgeNode());
        // Only what is about the node itself ends its devices; data come often.
        List<String> devices = topic.device() == null && topic.type() != SparkplugTopic.Type.NDATA
                ? List.copyOf(node.devicesOnline())
                : List.of();
        boolean wasOnline = node.isOnline();
        return switch (node.take(topic, payload)) {
            case Outcome.Metrics(var metrics) ->
                new Heard(EdgeMessage.readings(topic, payload, metrics, choice, now), List.of(), null);
            case Outcome.Online(boolean online, var metrics) -> {
                List<EdgeMessage> messages = new ArrayList<>();
                if (topic.device() == null && (!online || wasOnline)) {
                    // Without the node, or born anew with it, its devices are offline until they say otherwise.
                    devices.forEach(device ->
                            messages.add(EdgeMessage.online(topic.nodeKey() + "/" + device, payload, false, now)));
                }
                messages.add(EdgeMessage.online(topic.key(), payload, online, now));
                messages.addAll(EdgeMessage.readings(topic, payload, metrics, choice, now));
                yield new Heard(messages, metrics.stream().filter(choice).toList(), null);
            }
            case Outcome.Rebirth(String why) -> new Heard(List.of(), List.of(), mayAsk(topic, now) ? why : null);
            case Outcome.Ignored ignored -> Heard.NOTHING;
        };
    }

    private boolean mayAsk(SparkplugTopic topic, Instant now) {
        Instant last = asked.get(topic.nodeKey());
        if (last != null && now.isBefore(last.plus(REBIRTH_AGAIN))) {
            return false;
        }
        asked.put(topic.nodeKey(), now);
        return true;
    }
}
