package org.holtra.service.brokers;

import java.net.UnknownHostException;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.concurrent.CompletionException;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;

/** Looks at what a broker carries, over a connection of its own that leaves nothing behind. */
public final class TopicSurveys {

    /** After so many messages, enough is known of any broker. */
    private static final long ENOUGH = 500_000;

    private static final int PATIENCE_SECONDS = 12;

    private final BrokerClients clients;
    private final InstantSource clock;

    public TopicSurveys(BrokerClients clients, InstantSource clock) {
        this.clients = clients;
        this.clock = clock;
    }

    /**
     * Blocks for the time given; less if very much comes.
     *
     * @throws BrokerRefused if it cannot be looked at
     */
    public TopicTree look(Broker broker, Session usual, List<String> filters, Duration time) throws BrokerRefused {
        Session session = usual.passing(
                "holtra-look-" + Integer.toHexString(ThreadLocalRandom.current().nextInt()));
        Seen seen = new Seen(clock);
        BrokerClient client = null;
        try {
            client = clients.client(broker, session, seen);
            client.connect().get(PATIENCE_SECONDS, TimeUnit.SECONDS);
            List<Integer> codes = client.subscribe(filters, 0).get(PATIENCE_SECONDS, TimeUnit.SECONDS);
            if (codes.stream().allMatch(code -> code >= ReasonCode.FAILURE)) {
                throw new BrokerRefused(new BrokerFailure(
                        BrokerFailure.Sort.REFUSED,
                        "the broker refuses to show `" + filters.getFirst() + "` (" + ReasonCode.words(codes.getFirst())
                                + ")",
                        "Look at a part that the user may read, such as site/#, or have more allowed at the broker.",
                        null));
            }
            if (seen.enough.await(time.toMillis(), TimeUnit.MILLISECONDS) && seen.lost != null) {
                throw new BrokerRefused(BrokerFailure.of(seen.lost, broker, session));
            }
            return seen.tree;
        } catch (UnknownHostException | RuntimeException e) {
            throw new BrokerRefused(BrokerFailure.whileConnecting(e, broker, session));
        } catch (ExecutionException | TimeoutException e) {
            throw new BrokerRefused(
                    BrokerFailure.whileConnecting(e.getCause() == null ? e : e.getCause(), broker, session));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new CompletionException(e);
        } finally {
            if (client != null) {
                client.disconnect(true);
            }
        }
    }

    private static final class Seen implements BrokerClient.Listener {

        private final TopicTree tree = new TopicTree();
        private final AtomicLong messages = new AtomicLong();
        private final CountDownLatch enough = new CountDownLatch(1);
        private final InstantSource clock;
        private volatile Throwable lost;

        Seen(InstantSource clock) {
            this.clock = clock;
        }

        @Override
        public void arrived(Incoming message) {
            tree.saw(message.topic(), message.payload(), message.retained(), clock.instant());
            message.acknowledge().run();
            if (messages.incrementAndGet() >= ENOUGH) {
                enough.countDown();
            }
        }

        @Override
        public void lost(Throwable cause) {
            lost = cause;
            enough.countDown();
        }
    }
}
