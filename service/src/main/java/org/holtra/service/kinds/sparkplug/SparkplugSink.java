package org.holtra.service.kinds.sparkplug;

import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.reading.sparkplug.EdgePublisher;
import org.holtra.core.reading.sparkplug.EdgePublisher.Publication;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadReader;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.holtra.core.setup.Outlet;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerClient;
import org.holtra.service.brokers.BrokerSession;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.Incoming;
import org.holtra.service.brokers.Outgoing;
import org.holtra.service.brokers.OutletPublishing;
import org.holtra.service.brokers.ReasonCode;
import org.holtra.service.brokers.Session;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** An edge node (Sparkplug 3.0, section 5): publishes the births and data of the devices whose messages lanes bring. */
final class SparkplugSink implements Sink, BrokerSession.Use {

    private static final String STATE = SparkplugTopic.NAMESPACE + "/STATE/";

    private final EdgeTarget target;
    private final Broker broker;
    private final Brokers brokers;
    private final OutletPublishing publishing;
    private final BrokerSession session;

    /** Guarded by itself: what is numbered first is published first. */
    private final EdgePublisher publisher;

    private volatile boolean hostOnline;

    /** Completed once the births of a connection are out: no data may go before them. */
    private volatile CompletableFuture<Void> born = new CompletableFuture<>();

    private SparkplugSink(Outlet outlet, Broker broker, Session settings, Brokers brokers) {
        this.target = EdgeTarget.of(outlet, brokers.node());
        this.broker = broker;
        this.brokers = brokers;
        this.publishing = new OutletPublishing(outlet, broker, settings, brokers, target.timeout());
        // A host that heard the one before it takes this one's death for its own, or not, by the number.
        this.publisher = new EdgePublisher(
                target.group(), target.node(), target.whole(), brokers.clock().millis());
        this.session = new BrokerSession(broker, settings, this, brokers.session());
    }

    static SparkplugSink start(Outlet outlet, Broker broker, Session settings, Brokers brokers) {
        SparkplugSink sink = new SparkplugSink(outlet, broker, settings, brokers);
        sink.session.start();
        return sink;
    }

    @Override
    public Session connecting(Session settings) {
        born = new CompletableFuture<>();
        synchronized (publisher) {
            return settings.willing(outgoing(publisher.connecting(now()), 1));
        }
    }

    @Override
    public void opened(BrokerClient client, boolean remembered) {
        hostOnline = false;
        String commands = new SparkplugTopic(target.group(), SparkplugTopic.Type.NCMD, target.node(), null).toString();
        client.subscribe(target.host() == null ? List.of(commands) : List.of(commands, STATE + target.host()), 1)
                .whenComplete((codes, failure) -> {
                    if (failure != null) {
                        return; // the connection is gone, which its session tells
                    }
                    if (codes.stream().anyMatch(code -> code >= ReasonCode.FAILURE)) {
                        stands(
                                State.REFUSED,
                                "the broker refuses " + commands + " ("
                                        + ReasonCode.words(codes.stream()
                                                .filter(code -> code >= ReasonCode.FAILURE)
                                                .findFirst()
                                                .orElseThrow())
                                        + "), by which hosts ask for births",
                                null);
                        return;
                    }
                    births(client);
                    stands(State.CONNECTED, "publishes as edge node " + target.group() + "/" + target.node(), null);
                });
    }

    private void births(BrokerClient client) {
        synchronized (publisher) {
            publisher.births(now()).forEach(one -> client.publish(outgoing(one, target.qos())));
        }
        born.complete(null);
    }

    private long now() {
        return brokers.clock().millis();
    }

    private static Outgoing outgoing(Publication one, int qos) {
        return new Outgoing(
                one.topic().toString(), PayloadWriter.write(one.payload()), qos, false, null, null, Map.of());
    }

    @Override
    public void arrived(BrokerClient over, Incoming message) {
        message.acknowledge().run();
        if (message.topic().startsWith(STATE)) {
            host(message);
        } else if (asksForBirths(message)) {
            publishing.note("a host asks for births");
            births(over);
        }
    }

    private static boolean asksForBirths(Incoming message) {
        try {
            Payload payload = PayloadReader.read(message.payload());
            return payload.metrics().stream()
                    .anyMatch(metric ->
                            EdgePublisher.REBIRTH.equals(metric.name()) && Boolean.TRUE.equals(metric.value()));
        } catch (PayloadReader.Unreadable e) {
            return false; // whoever published it here is no host
        }
    }

    private void host(Incoming message) {
        try {
            JsonNode state = JsonMapper.shared().readTree(message.payload());
            hostOnline = state.path("online").asBoolean(false);
            publishing.note("host " + target.host() + " is " + (hostOnline ? "online" : "offline"));
        } catch (JacksonException e) {
            publishing.note("the state of host " + target.host() + " cannot be read: " + e.getOriginalMessage());
        }
    }

    @Override
    public void stands(State state, String reason, String detail) {
        publishing.stands(state, reason, detail);
    }

    @Override
    public Attempted attempt(Request request) {
        EdgeReading reading;
        try {
            reading = EdgeReading.of(request.content().body());
        } catch (IllegalArgumentException e) {
            return refused(e);
        }
        Exchange exchange = exchange(reading);
        try {
            return publishing.attempt(
                    session, exchange, client -> publish(client, reading), code -> answered(code, exchange));
        } catch (IllegalArgumentException e) {
            return refused(e);
        } catch (HostOffline e) {
            return Attempted.unanswered(
                    new Verdict.TryLater(
                            "host " + target.host() + " is offline, or has not said that it is online",
                            null,
                            false,
                            true),
                    "host offline",
                    exchange);
        }
    }

    private static Attempted refused(IllegalArgumentException why) {
        return Attempted.unanswered(
                new Verdict.Refused(why.getMessage()), "no reading", new Exchange("nothing was sent", Map.of()));
    }

    /** The host that the outlet waits for is not there. */
    private static final class HostOffline extends RuntimeException {
        private static final long serialVersionUID = 1L;
    }

    private CompletableFuture<Integer> publish(BrokerClient client, EdgeReading reading) {
        if (target.host() != null && !hostOnline) {
            throw new HostOffline();
        }
        CompletableFuture<Void> births = born;
        return births.isDone() ? data(client, reading) : births.thenCompose(out -> data(client, reading));
    }

    private CompletableFuture<Integer> data(BrokerClient client, EdgeReading reading) {
        CompletableFuture<Integer> last = null;
        synchronized (publisher) {
            for (Publication one : publisher.data(
                    reading.device(), reading.metrics(), reading.time().toEpochMilli(), now())) {
                last = client.publish(outgoing(one, target.qos()));
            }
        }
        return last;
    }

    private Attempted answered(int code, Exchange exchange) {
        String words = target.qos() == 0
                ? "sent with QoS 0, which is not acknowledged"
                : broker.version() == 3 ? "acknowledged" : ReasonCode.words(code);
        Verdict verdict = code < ReasonCode.FAILURE
                ? new Verdict.Delivered()
                : code == ReasonCode.NOT_AUTHORIZED
                        ? new Verdict.OutletBlocked("the broker answered " + words
                                + ": the user may not publish as edge node " + target.group() + "/" + target.node())
                        : new Verdict.TryLater("the broker answered " + words, null, false, false);
        return new Attempted(
                verdict,
                target.qos() == 0 ? "sent" : ReasonCode.text(code),
                words,
                exchange.answered(words.getBytes(StandardCharsets.UTF_8)));
    }

    @Override
    public Exchange preview(Request request) {
        return exchange(EdgeReading.of(request.content().body()));
    }

    private Exchange exchange(EdgeReading reading) {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("time", reading.time().toString());
        reading.metrics().forEach((name, value) -> fields.put(name, String.valueOf(value)));
        return new Exchange(
                "publish "
                        + new SparkplugTopic(
                                target.group(), SparkplugTopic.Type.DDATA, target.node(), reading.device()),
                fields);
    }

    @Override
    public void close() {
        session.standing().client().ifPresent(client -> {
            synchronized (publisher) {
                client.publish(outgoing(publisher.death(now()), 1));
            }
        });
        session.close();
        publishing.left();
    }
}
