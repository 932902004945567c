package org.holtra.service.dispatch;

import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.Verdict;

/**
 * Stands for the channel of an outlet whose kind could not open it: nothing is sent, the outlet is blocked and says why, and
 * what it owes waits until it is changed.
 */
record Unopened(String why) implements Channel {

    static Unopened because(RuntimeException failure) {
        return new Unopened("the outlet cannot be opened: " + failure);
    }

    @Override
    public Attempted attempt(Outgoing outgoing) {
        return new Attempted(new Verdict.OutletBlocked(why), Map.of(), null, null, "unopened", List.of());
    }

    @Override
    public Preview preview(Outgoing outgoing) {
        throw new IllegalArgumentException(why);
    }

    @Override
    public void close() {
        // There is nothing to close.
    }
}
