package org.holtra.service.kinds.mqtt;

import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Verdict;
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

/** Publishes each delivery to a topic, and goes by what the broker acknowledges. */
final class MqttSink implements Sink, BrokerSession.Use {

    private final Outlet outlet;
    private final MqttTarget target;
    private final Broker broker;
    private final OutletPublishing publishing;
    private final InstantSource clock;
    private final BrokerSession session;

    private MqttSink(Outlet outlet, Broker broker, Session settings, Brokers brokers) {
        this.outlet = outlet;
        this.target = MqttTarget.of(outlet);
        this.broker = broker;
        this.publishing = new OutletPublishing(outlet, broker, settings, brokers, target.timeout());
        this.clock = brokers.clock();
        this.session = new BrokerSession(broker, settings, this, brokers.session());
    }

    static MqttSink start(Outlet outlet, Broker broker, Session settings, Brokers brokers) {
        MqttSink sink = new MqttSink(outlet, broker, settings, brokers);
        sink.session.start();
        return sink;
    }

    @Override
    public void opened(BrokerClient client, boolean remembered) {
        stands(State.CONNECTED, "publishes to " + broker.address(), null);
    }

    @Override
    public void arrived(BrokerClient over, Incoming message) {
        // It subscribes to nothing; what an earlier client of its id was sent is of no use.
        message.acknowledge().run();
    }

    @Override
    public void stands(State state, String reason, String detail) {
        publishing.stands(state, reason, detail);
    }

    @Override
    public Attempted attempt(Request request) {
        Optional<Outgoing> message = target.message(request);
        if (message.isEmpty()) {
            return Attempted.unanswered(
                    new Verdict.Refused(NO_TOPIC), "no topic", new Exchange("nothing was sent", Map.of()));
        }
        Outgoing outgoing = message.get();
        Exchange exchange = target.exchange(outgoing, broker);
        try {
            return publishing.attempt(
                    session, exchange, client -> client.publish(outgoing), code -> answered(code, outgoing, exchange));
        } catch (IllegalArgumentException e) {
            // The client library found the topic or a property to be none; its message says which.
            return Attempted.unanswered(
                    new Verdict.Refused("`" + outgoing.topic() + "` cannot be published to: " + e.getMessage()),
                    "topic",
                    exchange);
        }
    }

    private static final String NO_TOPIC =
            "neither the lane's shape nor the outlet names a topic; set `topic` in one of them";

    private Attempted answered(int code, Outgoing message, Exchange exchange) {
        String text = message.qos() == 0 ? "sent" : broker.version() == 3 ? "acknowledged" : ReasonCode.text(code);
        String words = message.qos() == 0
                ? "sent with QoS 0, which is not acknowledged"
                : broker.version() == 3 ? "acknowledged" : ReasonCode.words(code);
        Verdict verdict = outlet.manner().verdicts().isEmpty()
                ? verdict(code, message)
                : outlet.manner()
                        .verdicts()
                        .judge(new Answer(text, Map.of(), words), clock.instant())
                        .orElseGet(() -> verdict(code, message));
        return new Attempted(verdict, text, words, exchange.answered(words.getBytes(StandardCharsets.UTF_8)));
    }

    private static Verdict verdict(int code, Outgoing message) {
        String said = "the broker answered " + ReasonCode.words(code);
        return switch (code) {
            case ReasonCode.NOT_AUTHORIZED ->
                new Verdict.DeviceHeld(said + ": the user may not publish to `" + message.topic() + "`");
            case ReasonCode.TOPIC_INVALID, ReasonCode.PACKET_TOO_LARGE, ReasonCode.PAYLOAD_INVALID ->
                new Verdict.Refused(said);
            case ReasonCode.RETAIN_NOT_SUPPORTED, ReasonCode.QOS_NOT_SUPPORTED ->
                new Verdict.OutletBlocked(said + "; change the outlet's settings");
            default ->
                code < ReasonCode.FAILURE ? new Verdict.Delivered() : new Verdict.TryLater(said, null, false, false);
        };
    }

    @Override
    public Exchange preview(Request request) {
        return target.message(request)
                .map(message -> target.exchange(message, broker))
                .orElseThrow(() -> new IllegalArgumentException(NO_TOPIC));
    }

    @Override
    public void close() {
        session.close();
        publishing.left();
    }
}
