package org.holtra.service.kinds.mqtt;

import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.service.brokers.Broker;
import org.holtra.service.brokers.BrokerClient;
import org.holtra.service.brokers.BrokerFailure;
import org.holtra.service.brokers.BrokerSession;
import org.holtra.service.brokers.Brokers;
import org.holtra.service.brokers.Incoming;
import org.holtra.service.brokers.Outgoing;
import org.holtra.service.brokers.ReasonCode;
import org.holtra.service.brokers.Session;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.connections.Thing;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/** Publishes each delivery to a topic, and goes by what the broker acknowledges. */
final class MqttSink implements Sink, BrokerSession.Use {

    private static final int FIRST_CONNECTION_SECONDS = 12;

    private final Outlet outlet;
    private final MqttTarget target;
    private final Broker broker;
    private final Session settings;
    private final Brokers brokers;
    private final Connection connection;
    private final InstantSource clock;
    private final BrokerSession session;

    private MqttSink(Outlet outlet, Broker broker, Session settings, Brokers brokers) {
        this.outlet = outlet;
        this.target = MqttTarget.of(outlet);
        this.broker = broker;
        this.settings = settings;
        this.brokers = brokers;
        this.clock = brokers.clock();
        this.connection = brokers.connections().of(Thing.outlet(outlet.name()));
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
        connection.become(state, reason, detail);
        brokers.standings().stands(outlet.connection().name(), Thing.outlet(outlet.name()), state, reason, detail);
    }

    @Override
    public Attempted attempt(Request request) {
        Optional<Outgoing> message = target.message(request);
        if (message.isEmpty()) {
            return Attempted.unanswered(
                    new Verdict.Refused(NO_TOPIC), "no topic", new Exchange("nothing was sent", Map.of()));
        }
        Exchange exchange = target.exchange(message.get(), broker);
        try {
            session.firstTry().get(FIRST_CONNECTION_SECONDS, TimeUnit.SECONDS);
            BrokerSession.Standing standing = session.standing();
            return standing.client().isPresent()
                    ? publish(standing.client().get(), message.get(), exchange)
                    : unconnected(standing.failure(), exchange);
        } catch (TimeoutException | ExecutionException e) {
            return unconnected(null, exchange);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Attempted.unanswered(
                    new Verdict.TryLater("the service stops", null, false, false), "interrupted", exchange);
        }
    }

    private static final String NO_TOPIC =
            "neither the lane's shape nor the outlet names a topic; set `topic` in one of them";

    private Attempted publish(BrokerClient client, Outgoing message, Exchange exchange) throws InterruptedException {
        try {
            int code = client.publish(message).get(target.timeout().toMillis(), TimeUnit.MILLISECONDS);
            connection.good(clock.instant());
            return answered(code, message, exchange);
        } catch (TimeoutException e) {
            return Attempted.unanswered(
                    new Verdict.TryLater(
                            "the broker did not acknowledge within "
                                    + target.timeout().toMillis() + " ms",
                            null,
                            true,
                            false),
                    "timeout",
                    exchange);
        } catch (ExecutionException e) {
            BrokerFailure failure = BrokerFailure.of(e.getCause(), broker, settings);
            return Attempted.unanswered(
                    new Verdict.TryLater(failure.words(), null, true, true), "connection broke", exchange);
        } catch (IllegalArgumentException e) {
            // The client library found the topic or a property to be none; its message says which.
            return Attempted.unanswered(
                    new Verdict.Refused("`" + message.topic() + "` cannot be published to: " + e.getMessage()),
                    "topic",
                    exchange);
        }
    }

    private Attempted unconnected(BrokerFailure failure, Exchange exchange) {
        if (failure != null && failure.refused()) {
            return Attempted.unanswered(new Verdict.OutletBlocked(failure.words()), "refused", exchange);
        }
        String why = failure == null ? "the broker does not answer" : failure.words();
        return Attempted.unanswered(new Verdict.TryLater(why, null, false, true), "unreachable", exchange);
    }

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
        brokers.standings().left(outlet.connection().name(), Thing.outlet(outlet.name()));
    }
}
