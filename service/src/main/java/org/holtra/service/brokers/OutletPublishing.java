package org.holtra.service.brokers;

import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.connections.Thing;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;

/** What outlets that publish over a broker have in common: how they stand, and what became of what they published. */
public final class OutletPublishing {

    private static final int FIRST_CONNECTION_SECONDS = 12;

    private final Outlet outlet;
    private final Broker broker;
    private final Session settings;
    private final Brokers brokers;
    private final Duration timeout;
    private final Connection connection;

    /** @param timeout how long an acknowledgement is waited for */
    public OutletPublishing(Outlet outlet, Broker broker, Session settings, Brokers brokers, Duration timeout) {
        this.outlet = outlet;
        this.broker = broker;
        this.settings = settings;
        this.brokers = brokers;
        this.timeout = timeout;
        this.connection = brokers.connections().of(Thing.outlet(outlet.name()));
    }

    /** The broker need not remember who only publishes. A new client overlaps with the one before it: their ids must differ. */
    public static Session session(Outlet outlet) {
        return Session.of(
                outlet.to(),
                outlet.connection().to(),
                "holtra-" + outlet.name() + "-"
                        + Integer.toHexString(ThreadLocalRandom.current().nextInt()),
                true);
    }

    /** Whether the outlet's client would be let in; publishes nothing. */
    public static List<CheckStep> check(Outlet outlet, Credential credential, Brokers brokers) {
        try {
            return new BrokerCheck(
                            brokers.session().clients(), Broker.of(outlet.connection(), credential), session(outlet))
                    .run(List.of(), 0);
        } catch (IllegalArgumentException e) {
            return BrokerCheck.unreadable(e);
        }
    }

    public void stands(State state, String reason, String detail) {
        connection.become(state, reason, detail);
        brokers.standings().stands(outlet.connection().name(), Thing.outlet(outlet.name()), state, reason, detail);
    }

    /** A line of its diary. */
    public void note(String line) {
        connection.note(line, null);
    }

    /** It holds no connection any more. */
    public void left() {
        brokers.standings().left(outlet.connection().name(), Thing.outlet(outlet.name()));
    }

    /**
     * @param publish gives the broker's reason code
     * @param answered what that code means
     */
    public Attempted attempt(
            BrokerSession session,
            Exchange exchange,
            Function<BrokerClient, CompletableFuture<Integer>> publish,
            IntFunction<Attempted> answered) {
        try {
            session.firstTry().get(FIRST_CONNECTION_SECONDS, TimeUnit.SECONDS);
            BrokerSession.Standing standing = session.standing();
            return standing.client().isPresent()
                    ? published(publish.apply(standing.client().get()), exchange, answered)
                    : unconnected(standing.failure(), exchange);
        } catch (TimeoutException | ExecutionException e) {
            return unconnected(null, exchange);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Attempted.unanswered(
                    new Verdict.TryLater("the service stops", null, false, false), "interrupted", exchange);
        }
    }

    private Attempted published(CompletableFuture<Integer> code, Exchange exchange, IntFunction<Attempted> answered)
            throws InterruptedException {
        try {
            int known = code.get(timeout.toMillis(), TimeUnit.MILLISECONDS);
            connection.good(brokers.clock().instant());
            return answered.apply(known);
        } catch (TimeoutException e) {
            return Attempted.unanswered(
                    new Verdict.TryLater(
                            "the broker did not acknowledge within " + timeout.toMillis() + " ms", null, true, false),
                    "timeout",
                    exchange);
        } catch (ExecutionException e) {
            BrokerFailure failure = BrokerFailure.of(e.getCause(), broker, settings);
            return Attempted.unanswered(
                    new Verdict.TryLater(failure.words(), null, true, true), "connection broke", exchange);
        }
    }

    private static Attempted unconnected(BrokerFailure failure, Exchange exchange) {
        if (failure != null && failure.refused()) {
            return Attempted.unanswered(new Verdict.OutletBlocked(failure.words()), "refused", exchange);
        }
        String why = failure == null ? "the broker does not answer" : failure.words();
        return Attempted.unanswered(new Verdict.TryLater(why, null, false, true), "unreachable", exchange);
    }
}
