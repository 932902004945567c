package org.holtra.service.introducing;

import java.util.concurrent.Semaphore;
import org.holtra.service.dispatch.Asked;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/** A way to a destination that is asked so many things at once: while one is written down here, another is asked there. */
final class LimitedExchanges {

    private final int atOnce;
    private final Semaphore turns;

    LimitedExchanges(int atOnce) {
        this.atOnce = atOnce;
        this.turns = new Semaphore(atOnce, true);
    }

    int atOnce() {
        return atOnce;
    }

    Sink through(Sink sink) {
        return new Limited(sink, turns);
    }

    private record Limited(Sink sink, Semaphore turns) implements Sink {

        @Override
        public Asked ask(Request request) {
            turns.acquireUninterruptibly();
            try {
                return sink.ask(request);
            } finally {
                turns.release();
            }
        }

        @Override
        public Attempted attempt(Request request) {
            return sink.attempt(request);
        }

        @Override
        public Exchange preview(Request request) {
            return sink.preview(request);
        }

        @Override
        public void close() {
            // It is its owner's to close.
        }
    }
}
