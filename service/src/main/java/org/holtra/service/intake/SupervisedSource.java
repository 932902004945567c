package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.util.Objects;
import java.util.function.Consumer;
import org.holtra.core.setup.Inlet;
import org.holtra.service.connections.Connection.State;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One inlet on this node: opened, paused, opened anew and closed as the setup, the journal and the other nodes have it. What
 * its kind throws is told of and tried again, and harms no other. Used under the lock of {@link Sources}.
 */
final class SupervisedSource {

    private static final Duration FIRST_PAUSE = Duration.ofSeconds(5);
    private static final Duration LONGEST_PAUSE = Duration.ofMinutes(5);
    private static final Logger log = LoggerFactory.getLogger(SupervisedSource.class);

    private final SourceKind kind;
    private final SourceContext.Means means;
    private final org.holtra.service.connections.Connection connection;
    private Inlet inlet;
    private SourceContext context;
    private Source source;
    private boolean paused;
    private String broken;
    private int failures;
    private Instant nextTry = Instant.EPOCH;

    SupervisedSource(
            SourceKind kind,
            SourceContext.Means means,
            org.holtra.service.connections.Connection connection,
            Inlet inlet) {
        this.kind = kind;
        this.means = means;
        this.connection = connection;
        this.inlet = inlet;
    }

    SourceKind kind() {
        return kind;
    }

    Inlet inlet() {
        return inlet;
    }

    /** Why it cannot be opened; null if it is open, or need not be. */
    String broken() {
        return broken;
    }

    private boolean wanted() {
        return !inlet.closed() || kind.answersWhileClosed();
    }

    /** The setup has it so now. */
    void configure(Inlet next, Instant now) {
        boolean same = inlet.at().equals(next.at())
                && Objects.equals(inlet.connection(), next.connection())
                && inlet.closed() == next.closed();
        inlet = next;
        if (same && source != null) {
            context.become(next);
        } else {
            reopen(now);
        }
    }

    /** Its credential has changed, or this node has become the one that runs it. */
    void reopen(Instant now) {
        Source old = source;
        source = null;
        if (!wanted()) {
            forget(old);
            old = null;
        } else if (!kind.overlaps()) {
            retire(old);
            old = null;
        }
        failures = 0;
        open(now);
        retire(old);
    }

    private void open(Instant now) {
        if (!wanted()) {
            broken = null;
            connection.become(State.CLOSED, null);
            return;
        }
        context = new SourceContext(means, kind, connection, inlet);
        try {
            source = kind.open(context);
            paused = false;
            broken = null;
        } catch (RuntimeException e) {
            if (broken == null) {
                log.error("Inlet {} cannot be opened", inlet.name(), e);
            }
            broken = e.toString();
            connection.become(State.BROKEN, "it cannot be opened: " + words(e), e.toString());
            Duration pause = FIRST_PAUSE.multipliedBy(1L << Math.min(failures, 10));
            nextTry = now.plus(pause.compareTo(LONGEST_PAUSE) < 0 ? pause : LONGEST_PAUSE);
            failures++;
        }
    }

    private static String words(RuntimeException e) {
        return e.getMessage() == null ? e.getClass().getSimpleName() : e.getMessage();
    }

    /**
     * Called every so often while it is to run on this node.
     *
     * @param keeps whether what comes can be kept now
     */
    void tick(boolean keeps, Instant now) {
        if (source == null && wanted() && !now.isBefore(nextTry)) {
            open(now);
        }
        if (source == null || !kind.canWait() || keeps == !paused) {
            return;
        }
        paused = !keeps;
        try {
            if (paused) {
                source.pause();
                connection.become(
                        State.PAUSED, "nothing can be kept now: the database is away, or the spool is not drained");
            } else {
                source.resume();
            }
        } catch (RuntimeException e) {
            log.error("Inlet {} cannot be {}", inlet.name(), paused ? "paused" : "resumed", e);
        }
    }

    /** The setup has it so now, and this node does not run it, or not yet. */
    void expect(Inlet next) {
        inlet = next;
        nextTry = Instant.EPOCH;
        if (!wanted()) {
            connection.become(State.CLOSED, null);
        }
    }

    /** Another node runs it. */
    void leave(String why) {
        if (source != null || broken != null) {
            retire(source);
            source = null;
            broken = null;
        }
        connection.become(State.ELSEWHERE, why);
    }

    boolean isOpen() {
        return source != null;
    }

    void close() {
        retire(source);
        source = null;
        connection.become(State.CLOSED, null);
    }

    /** The setup has it no longer. */
    void remove() {
        forget(source);
        source = null;
        connection.become(State.CLOSED, null);
    }

    private void retire(Source old) {
        end(old, Source::close);
    }

    private void forget(Source old) {
        end(old, Source::forget);
    }

    private void end(Source old, Consumer<Source> ending) {
        if (old == null) {
            return;
        }
        try {
            ending.accept(old);
        } catch (RuntimeException e) {
            log.error("Inlet {} could not be closed as it was", inlet.name(), e);
        }
    }
}
