package org.holtra.service.brokers;

import java.net.UnknownHostException;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import org.holtra.service.connections.Connection.State;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Keeps one connection to a broker: makes it, and makes it anew whenever it is gone, after a pause that grows and is never
 * quite the same, so that many clients do not come back all at once.
 */
public final class BrokerSession implements AutoCloseable {

    private static final Duration FIRST_PAUSE = Duration.ofSeconds(1);
    private static final Duration LONGEST_PAUSE = Duration.ofSeconds(60);

    /** Less would throw out another client of the same id again and again, and be thrown out by it. */
    private static final Duration PAUSE_AFTER_TAKEOVER = Duration.ofSeconds(20);

    private static final Duration A_MOMENT = Duration.ofMillis(100);
    private static final int MOST_RECEIVED = 65_535;
    private static final Duration TOO_SHORT = Duration.ofSeconds(3);
    private static final int SUSPICIOUS = 3;
    private static final int LONGEST_GOODBYE_SECONDS = 2;
    private static final Logger log = LoggerFactory.getLogger(BrokerSession.class);

    /** What uses the connection. Called one after the other, but {@link #arrived} by the client's own threads. */
    public interface Use {

        /**
         * The connection was made.
         *
         * @param remembered whether the broker still knew this client and its subscriptions
         */
        void opened(BrokerClient client, boolean remembered);

        void arrived(BrokerClient over, Incoming message);

        /** What the broker is told at the connection that is made next. */
        default Session connecting(Session session) {
            return session;
        }

        /** How the connection stands; {@link State#CONNECTED} is told by whoever uses it. */
        void stands(State state, String reason, String detail);
    }

    /** How clients are made, and what runs later. */
    public record Means(BrokerClients clients, ScheduledExecutorService later) {}

    private final Broker broker;
    private final Use use;
    private final Means means;
    private final CompletableFuture<Void> firstTry = new CompletableFuture<>();

    /** All below is guarded by this. */
    private Session session;

    /** The connection that is being made, or was. */
    private BrokerClient client;

    private boolean open;
    private boolean closed;
    private long openedNanos;
    private int failures;
    private int shortLives;
    private BrokerFailure failure;

    public BrokerSession(Broker broker, Session session, Use use, Means means) {
        this.broker = broker;
        this.session = session;
        this.use = use;
        this.means = means;
    }

    public void start() {
        use.stands(State.CONNECTING, "connects to " + broker.address(), null);
        Thread.startVirtualThread(this::connect);
    }

    /** The connection, if there is one; else why there is none. */
    public record Standing(Optional<BrokerClient> client, BrokerFailure failure) {}

    public synchronized Standing standing() {
        return new Standing(open ? Optional.of(client) : Optional.empty(), failure);
    }

    /** Completed once the first attempt to connect has ended, well or not. */
    public CompletableFuture<Void> firstTry() {
        return firstTry;
    }

    private void connect() {
        Listening listening = new Listening();
        BrokerClient next;
        Session now;
        synchronized (this) {
            now = use.connecting(session);
        }
        try {
            next = means.clients.client(broker, now, listening);
        } catch (UnknownHostException | RuntimeException e) {
            failed(e, BrokerFailure.whileConnecting(e, broker, now));
            return;
        }
        listening.client = next;
        synchronized (this) {
            if (closed) {
                return;
            }
            client = next;
        }
        next.connect().whenComplete((remembered, refused) -> {
            if (refused == null) {
                made(next, remembered);
            } else {
                failed(refused, BrokerFailure.whileConnecting(unwrapped(refused), broker, now));
            }
        });
    }

    private void made(BrokerClient made, boolean remembered) {
        synchronized (this) {
            if (closed || client != made) {
                made.disconnect(false); // not waited for: this thread is the one it is done by
                return;
            }
            open = true;
            openedNanos = System.nanoTime();
            failures = 0;
            failure = null;
        }
        try {
            use.opened(made, remembered);
        } catch (RuntimeException e) {
            log.error("What uses the connection to {} failed", broker.address(), e);
        }
        firstTry.complete(null);
    }

    private synchronized void failed(Throwable why, BrokerFailure meaning) {
        if (closed) {
            return;
        }
        open = false;
        failure = meaning;
        use.stands(
                failure.refused() ? State.REFUSED : State.WAITING,
                failure.words(),
                failure.mend() + " (" + unwrapped(why) + ")");
        again(failure.sort() == BrokerFailure.Sort.TAKEN_OVER ? PAUSE_AFTER_TAKEOVER : pause());
        firstTry.complete(null);
    }

    private void lost(BrokerClient which, Throwable why) {
        synchronized (this) {
            if (closed || client != which) {
                return;
            }
            open = false;
            if (BrokerFailure.isTooMany(why)) {
                tooMany(why);
                return;
            }
            boolean shortLived = System.nanoTime() - openedNanos < TOO_SHORT.toNanos();
            shortLives = shortLived ? shortLives + 1 : 0;
            if (shortLives >= SUSPICIOUS) {
                failure = BrokerFailure.takenOverAsItSeems(session);
                use.stands(State.WAITING, failure.words(), failure.mend() + " (" + why + ")");
                again(PAUSE_AFTER_TAKEOVER);
                return;
            }
        }
        failed(why, BrokerFailure.of(unwrapped(why), broker, session));
    }

    /** Some brokers send more than they were allowed to; refused again and again, they would never get any further. */
    private void tooMany(Throwable why) {
        int allowed = session.receiveMaximum();
        session = session.receiving(Math.min(2 * allowed, MOST_RECEIVED));
        use.stands(
                State.WAITING,
                "the broker sent more than " + allowed + " unacknowledged messages, and may send "
                        + session.receiveMaximum() + " from now on",
                why.toString());
        again(A_MOMENT);
    }

    private static Throwable unwrapped(Throwable why) {
        return why instanceof CompletionException && why.getCause() != null ? why.getCause() : why;
    }

    private Duration pause() {
        Duration longest = FIRST_PAUSE.multipliedBy(1L << Math.min(failures, 6));
        failures++;
        return longest.compareTo(LONGEST_PAUSE) < 0 ? longest : LONGEST_PAUSE;
    }

    /** Within half of the pause and the whole. */
    private void again(Duration pause) {
        long millis = pause.toMillis() / 2 + ThreadLocalRandom.current().nextLong(pause.toMillis() / 2 + 1);
        means.later.schedule(() -> Thread.startVirtualThread(this::connect), millis, TimeUnit.MILLISECONDS);
    }

    private final class Listening implements BrokerClient.Listener {

        private volatile BrokerClient client;

        @Override
        public void arrived(Incoming message) {
            use.arrived(client, message);
        }

        @Override
        public void lost(Throwable cause) {
            BrokerSession.this.lost(client, cause);
        }
    }

    /** @param forget whether the broker is to forget this client and what it subscribed to */
    public void close(boolean forget) {
        BrokerClient last;
        synchronized (this) {
            if (closed) {
                return;
            }
            closed = true;
            last = open ? client : null;
            open = false;
        }
        firstTry.complete(null);
        if (last != null) {
            goodbye(last, forget);
        }
    }

    private void goodbye(BrokerClient last, boolean forget) {
        try {
            last.disconnect(forget).get(LONGEST_GOODBYE_SECONDS, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (java.util.concurrent.ExecutionException | java.util.concurrent.TimeoutException e) {
            // It is gone, or going; the broker finds out by itself.
            log.debug("Left {} without a goodbye: {}", broker.address(), e.toString());
        }
    }

    @Override
    public void close() {
        close(false);
    }
}
