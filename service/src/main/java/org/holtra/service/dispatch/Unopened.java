package org.holtra.service.dispatch;

import java.util.Map;
import org.holtra.core.delivery.Verdict;

/**
 * Stands for the sink of an outlet whose kind could not open it: nothing is sent, the outlet is blocked and says why, and what
 * it owes waits until it is changed.
 */
record Unopened(String why) implements Sink {

    static Unopened because(RuntimeException failure) {
        return new Unopened("the outlet cannot be opened: " + failure);
    }

    @Override
    public Attempted attempt(Request request) {
        return Attempted.unanswered(
                new Verdict.OutletBlocked(why), "unopened", new Exchange("nothing was sent", Map.of()));
    }

    @Override
    public Exchange preview(Request request) {
        throw new IllegalArgumentException(why);
    }

    @Override
    public void close() {
        // There is nothing to close.
    }
}
