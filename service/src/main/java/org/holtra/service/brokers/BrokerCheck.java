package org.holtra.service.brokers;

import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.tls.TrustOffer;

/** Connects to a broker under a name of its own and looks how far it gets. Leaves nothing behind. */
public final class BrokerCheck implements BrokerClient.Listener {

    private static final int PATIENCE_SECONDS = 12;

    private final BrokerClients clients;
    private final Broker broker;
    private final Session session;
    private final CheckSteps steps = new CheckSteps();

    public BrokerCheck(BrokerClients clients, Broker broker, Session usual) {
        this.clients = clients;
        this.broker = broker;
        this.session = usual.passing(usual.clientId() + "-check-"
                + Integer.toHexString(ThreadLocalRandom.current().nextInt()));
    }

    /** A check that ends before anything can be connected to. */
    public static List<CheckStep> unreadable(IllegalArgumentException e) {
        CheckSteps steps = new CheckSteps();
        steps.failed("settings", e.getMessage(), "Mend it in the connection.");
        return steps.all();
    }

    /** Whether the broker lets one in, and then what of it may be subscribed to. */
    public List<CheckStep> run(List<TopicPattern> topics, int qos) {
        BrokerClient client = null;
        try {
            client = clients.client(broker, session, this);
            client.connect().get(PATIENCE_SECONDS, TimeUnit.SECONDS);
            passedUpTo(BrokerFailure.Sort.BROKE);
            if (!topics.isEmpty()) {
                allowed(
                        topics,
                        client.subscribe(
                                        topics.stream()
                                                .map(TopicPattern::filter)
                                                .toList(),
                                        qos)
                                .get(PATIENCE_SECONDS, TimeUnit.SECONDS));
            }
        } catch (UnknownHostException | RuntimeException e) {
            failed(e);
        } catch (ExecutionException | TimeoutException e) {
            failed(e.getCause() == null ? e : e.getCause());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            failed(e);
        } finally {
            if (client != null) {
                client.disconnect(true);
            }
        }
        return steps.all();
    }

    private void allowed(List<TopicPattern> topics, List<Integer> codes) {
        List<String> refused = new ArrayList<>();
        for (int i = 0; i < codes.size(); i++) {
            if (codes.get(i) >= ReasonCode.FAILURE) {
                refused.add("`" + topics.get(i).written() + "` (" + ReasonCode.words(codes.get(i)) + ")");
            }
        }
        if (refused.isEmpty()) {
            steps.passed("allowed", "the broker lets the user subscribe to all topics");
        } else {
            steps.failed(
                    "allowed",
                    "the broker refuses " + String.join(", ", refused),
                    "Have the user allowed to read them at the broker, or name others.");
        }
    }

    private void passedUpTo(BrokerFailure.Sort failed) {
        if (failed == BrokerFailure.Sort.NAME) {
            return;
        }
        steps.passed("name found", broker.address().host());
        if (failed == BrokerFailure.Sort.UNREACHABLE) {
            return;
        }
        steps.passed("connected", "port " + broker.address().port());
        if (failed == BrokerFailure.Sort.TLS) {
            return;
        }
        if (broker.tls() != null) {
            steps.passed("TLS", "the broker's certificate is trusted");
        }
        if (failed != BrokerFailure.Sort.REFUSED) {
            steps.passed("signed in", broker.user() == null ? "without a user" : "as user `" + broker.user() + "`");
        }
    }

    private void failed(Throwable why) {
        BrokerFailure failure = BrokerFailure.whileConnecting(why, broker, session);
        BrokerFailure.Sort sort =
                failure.sort() == BrokerFailure.Sort.BROKE ? BrokerFailure.Sort.REFUSED : failure.sort();
        passedUpTo(sort);
        String step = switch (sort) {
            case NAME -> "name found";
            case UNREACHABLE -> "connected";
            case TLS -> "TLS";
            default -> "signed in";
        };
        if (failure.authority() == null) {
            steps.failed(step, failure.words(), failure.mend());
        } else {
            steps.failed(step, failure.words(), failure.mend(), TrustOffer.of("connection", failure.authority()));
        }
    }

    @Override
    public void arrived(Incoming message) {
        // It only looks whether it may subscribe; unacknowledged, the message stays with those that it is for.
    }

    @Override
    public void lost(Throwable cause) {
        // Whoever waits for an answer is told so by that.
    }
}
