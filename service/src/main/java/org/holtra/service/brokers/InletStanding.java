package org.holtra.service.brokers;

import org.holtra.service.connections.Connection.State;
import org.holtra.service.connections.Thing;
import org.holtra.service.intake.Receipt;
import org.holtra.service.intake.SourceContext;

/** How an inlet stands that is connected to a broker: told of itself, and of the connection that it shares with others. */
public final class InletStanding implements AutoCloseable {

    private final SourceContext context;
    private final SharedStandings standings;
    private volatile boolean closed;

    public InletStanding(SourceContext context, Brokers brokers) {
        this.context = context;
        this.standings = brokers.standings();
    }

    public boolean isClosed() {
        return closed;
    }

    /** Says nothing any more once it is closed: another may stand in its place. */
    public void stands(State state, String reason, String detail) {
        if (!closed) {
            context.connection().become(state, reason, detail);
            standings.stands(shared(), inlet(), state, reason, detail);
        }
    }

    /** A message is durable; the broker is told next. */
    public void kept(Receipt receipt) {
        context.acknowledged(receipt);
        context.connection().good(receipt.id().received());
    }

    public void notKept(Throwable why) {
        context.connection().note("a message could not be kept, and is tried again", why.toString());
    }

    /** @param messages of QoS 0 that were lost since this was last told; often none */
    public void lost(long messages) {
        if (messages > 0) {
            context.connection()
                    .note(
                            messages + " messages of QoS 0 came faster than they could be kept, and are lost",
                            "QoS 0 promises nothing, and the broker does not wait; publish and subscribe with QoS 1.");
        }
    }

    private String shared() {
        return context.inlet().connection().name();
    }

    private Thing inlet() {
        return Thing.inlet(context.inlet().name());
    }

    @Override
    public void close() {
        closed = true;
        standings.left(shared(), inlet());
    }
}
