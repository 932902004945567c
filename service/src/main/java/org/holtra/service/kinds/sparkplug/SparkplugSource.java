package org.holtra.service.kinds.sparkplug;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadReader;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.holtra.core.setup.Inlet;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerClient;
import org.holtra.service.brokers.BrokerSession;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.Handover;
import org.holtra.service.brokers.Incoming;
import org.holtra.service.brokers.InletStanding;
import org.holtra.service.brokers.Outgoing;
import org.holtra.service.brokers.ReasonCode;
import org.holtra.service.brokers.Session;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.intake.Receipt;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;

/**
 * A host application (Sparkplug 3.0, section 5): hears edge nodes, tells them by its state whether it is there, and asks for a new
 * birth where it cannot understand one. While nothing can be kept it says that it is offline, and edge nodes keep their data.
 */
final class SparkplugSource implements Source, BrokerSession.Use, Handover.Taker {

    private static final Duration PAUSE_AFTER_A_FAILURE = Duration.ofSeconds(1);
    private static final String STATE = SparkplugTopic.NAMESPACE + "/STATE/";
    private static final String EDGE = "edge";
    private static final String TYPE = "type";
    private static final String AT = "at";
    private static final String HISTORICAL = "historical";
    private static final String MESSAGE = "message";

    private final SourceContext context;
    private final Brokers brokers;
    private final InletStanding standing;
    private final Broker broker;
    private final List<String> filters;
    private final String host;
    private final List<String> wantedNodes;
    private final EdgeNodes nodes;
    private final Handover handover;
    private final BrokerSession session;
    private volatile boolean paused;

    private SparkplugSource(SourceContext context, Brokers brokers) {
        Inlet inlet = context.inlet();
        this.context = context;
        this.brokers = brokers;
        this.standing = new InletStanding(context, brokers);
        this.broker = Broker.of(inlet.connection(), context.credential().orElse(null));
        this.filters = filters(inlet);
        this.host = host(inlet);
        this.wantedNodes = names(inlet, "nodes");
        this.nodes = new EdgeNodes(MetricChoice.of(
                names(inlet, "metrics"), !"ignore".equals(inlet.at().get("transient"))));
        this.handover = new Handover("sparkplug-inlet-" + inlet.name(), this, PAUSE_AFTER_A_FAILURE);
        this.session = new BrokerSession(broker, session(inlet, brokers.clock().millis()), this, brokers.session());
    }

    /** @throws IllegalArgumentException if its address or a certificate cannot be read */
    static SparkplugSource start(SourceContext context, Brokers brokers) {
        SparkplugSource source = new SparkplugSource(context, brokers);
        source.session.start();
        return source;
    }

    private static String host(Inlet inlet) {
        return inlet.at().get("host") instanceof String host ? host : "holtra";
    }

    private static List<String> names(Inlet inlet, String setting) {
        return inlet.at().get(setting) instanceof List<?> all
                ? all.stream().map(String::valueOf).toList()
                : List.of();
    }

    /** Those that are heard; + for all. */
    static List<String> groups(Inlet inlet) {
        List<String> groups = names(inlet, "groups");
        return groups.isEmpty() ? List.of("+") : groups;
    }

    static List<String> filters(Inlet inlet) {
        return groups(inlet).stream()
                .flatMap(group -> Stream.of("NBIRTH", "NDEATH", "NDATA", "DBIRTH", "DDEATH", "DDATA")
                        .map(type -> SparkplugTopic.NAMESPACE + "/" + group + "/" + type + "/"
                                + (type.startsWith("N") ? "+" : "+/+")))
                .toList();
    }

    /** Its will says that it is offline. */
    static Session session(Inlet inlet, long now) {
        Session usual = Session.of(inlet.at(), inlet.connection().to(), "holtra-" + inlet.name(), true);
        return usual.willing(state(host(inlet), false, now));
    }

    private static Outgoing state(String host, boolean online, long now) {
        return new Outgoing(
                STATE + host,
                ("{\"online\":" + online + ",\"timestamp\":" + now + "}").getBytes(StandardCharsets.UTF_8),
                1,
                true,
                null,
                null,
                Map.of());
    }

    @Override
    public void opened(BrokerClient client, boolean remembered) {
        client.subscribe(filters, 1).whenComplete((codes, failure) -> {
            if (failure != null) {
                return; // the connection is gone, which its session tells
            }
            if (codes.stream().allMatch(code -> code >= ReasonCode.FAILURE)) {
                stands(
                        State.REFUSED,
                        "the broker refuses " + filters.getFirst() + " (" + ReasonCode.words(codes.getFirst()) + ")",
                        null);
                return;
            }
            if (!paused) {
                client.publish(state(host, true, brokers.clock().millis()));
            }
            tellConnected();
        });
    }

    private void tellConnected() {
        stands(State.CONNECTED, "hears edge nodes as host " + host, null);
    }

    @Override
    public void arrived(BrokerClient over, Incoming message) {
        SparkplugTopic topic = SparkplugTopic.of(message.topic()).orElse(null);
        if (topic == null || !wantedNodes.isEmpty() && !wantedNodes.contains(topic.node())) {
            message.acknowledge().run();
            return;
        }
        Payload payload;
        try {
            payload = PayloadReader.read(message.payload());
        } catch (PayloadReader.Unreadable e) {
            unreadable(over, message, topic, e);
            return;
        }
        EdgeNodes.Heard heard;
        synchronized (nodes) {
            heard = nodes.hear(topic, payload, brokers.clock().instant());
        }
        if (!heard.born().isEmpty()) {
            context.described(BornMetrics.described(heard.born()));
        }
        if (heard.rebirth() != null) {
            askForBirth(topic, heard.rebirth());
        }
        List<EdgeMessage> messages = heard.messages();
        AtomicInteger left = new AtomicInteger(messages.size());
        Runnable acknowledge = () -> {
            // The broker is told once all of them are durable.
            if (left.decrementAndGet() == 0) {
                message.acknowledge().run();
            }
        };
        messages.forEach(one -> handover.offer(incoming(one, topic, message, acknowledge), over));
        if (messages.isEmpty()) {
            message.acknowledge().run();
        }
        standing.lost(handover.lost());
    }

    /** Kept as it came, so that it is seen, and can be looked into. */
    private void unreadable(BrokerClient over, Incoming message, SparkplugTopic topic, PayloadReader.Unreadable why) {
        Map<String, String> told = new LinkedHashMap<>();
        told.put(EDGE, topic.key());
        told.put(TYPE, "fault");
        told.put(AT, brokers.clock().instant().toString());
        told.put(MESSAGE, topic.type().name());
        context.connection().note("a payload of " + topic.key() + " cannot be read", why.getMessage());
        handover.offer(
                new Incoming(
                        message.topic(),
                        message.payload(),
                        message.qos(),
                        message.retained(),
                        "application/octet-stream",
                        told,
                        message.acknowledge()),
                over);
    }

    private static Incoming incoming(EdgeMessage one, SparkplugTopic topic, Incoming of, Runnable acknowledge) {
        Map<String, String> told = new LinkedHashMap<>();
        told.put(EDGE, one.edge());
        told.put("group", topic.group());
        told.put("node", topic.node());
        told.put(TYPE, one.type());
        told.put(AT, one.at().toString());
        told.put(MESSAGE, topic.type().name());
        if (one.historical()) {
            told.put(HISTORICAL, "true");
        }
        return new Incoming(topic.toString(), one.body(), of.qos(), false, "application/json", told, acknowledge);
    }

    private void askForBirth(SparkplugTopic topic, String why) {
        context.connection().note("asks edge node " + topic.nodeKey() + " for a new birth: " + why, null);
        Metric rebirth = new Metric(
                "Node Control/Rebirth",
                null,
                brokers.clock().millis(),
                MetricType.BOOLEAN,
                false,
                false,
                true,
                Map.of());
        Outgoing command = new Outgoing(
                new SparkplugTopic(topic.group(), SparkplugTopic.Type.NCMD, topic.node(), null).toString(),
                PayloadWriter.write(new Payload(brokers.clock().millis(), List.of(rebirth), null)),
                0,
                false,
                null,
                null,
                Map.of());
        session.standing().client().ifPresent(client -> client.publish(command));
    }

    @Override
    public CompletableFuture<Receipt> take(Incoming message) {
        Map<String, Object> fields = new LinkedHashMap<>(message.properties());
        fields.put(HISTORICAL, message.properties().containsKey(HISTORICAL));
        fields.put("topic", message.topic());
        return context.take(new Arrival(
                context.nextId(),
                context.inlet().name(),
                new Transport(broker.address().host(), message.topic(), null, fields),
                message.contentType(),
                message.payload()));
    }

    @Override
    public void kept(Receipt receipt) {
        standing.kept(receipt);
    }

    @Override
    public void notKept(Throwable why) {
        standing.notKept(why);
    }

    @Override
    public void stands(State state, String reason, String detail) {
        standing.stands(state, reason, detail);
    }

    private void say(boolean online) {
        session.standing()
                .client()
                .ifPresent(client ->
                        client.publish(state(host, online, brokers.clock().millis())));
    }

    @Override
    public void pause() {
        paused = true;
        say(false);
        handover.pause(true);
    }

    @Override
    public void resume() {
        paused = false;
        handover.pause(false);
        say(true);
        if (session.standing().client().isPresent()) {
            tellConnected();
        }
    }

    @Override
    public void close() {
        say(false);
        handover.close();
        session.close(true);
        standing.close();
    }
}
