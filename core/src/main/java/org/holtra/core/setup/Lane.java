package org.holtra.core.setup;

import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Memory;
import org.holtra.core.shape.Shape;

/**
 * Carries messages from inlets to one outlet, compiled.
 *
 * @param closed whether it keeps what it takes until it is opened
 * @param perPoint whether each point of a device makes a delivery of its own
 */
public record Lane(
        String name, boolean closed, Selection selection, boolean perPoint, Form form, String outlet, Policy policy) {

    /**
     * How it delivers.
     *
     * @param ordered whether the next message of a device leaves only after the one before is settled
     */
    public record Policy(RetrySchedule retry, boolean ordered) {}

    /**
     * In what form it sends.
     *
     * @param reads the fields that the shape reads, with the place of each as a JSON pointer
     * @param memory what it makes of several messages; null if each goes by itself
     */
    public record Form(Shape shape, Map<FieldPath, String> reads, Memory memory) {}

    /** What it remembers; null if it sends each message by itself. */
    public Memory memory() {
        return form.memory;
    }

    public RetrySchedule retry() {
        return policy.retry;
    }

    /** Whether it keeps the order of each device's messages. */
    public boolean ordered() {
        return policy.ordered;
    }

    /** What fills the content of its deliveries. */
    public Shape shape() {
        return form.shape;
    }

    /**
     * Which messages it takes.
     *
     * @param devices of which devices
     * @param pick which of their messages; null for all
     */
    public record Selection(Set<String> inlets, Devices devices, Condition pick) {}

    /**
     * Which devices it serves.
     *
     * @param where those that fit; null for any
     * @param only their keys; empty for any
     */
    public record Devices(Condition where, Set<String> only) {

        public static final Devices ALL = new Devices(null, Set.of());

        /** Why it does not serve the device of a message, in words; empty if it does. */
        public Optional<String> whyNot(Scope scope) {
            if (!serves(scope)) {
                return only.isEmpty() || only.contains(key(scope))
                        ? where.whyNot(scope).map(why -> "it does not serve this device: " + why)
                        : Optional.of(
                                scope.device().isEmpty()
                                        ? "it serves hand-picked devices, and this message is of none"
                                        : "device `" + key(scope) + "` is not among the " + only.size() + " it serves");
            }
            return Optional.empty();
        }

        public boolean serves(Scope scope) {
            return (only.isEmpty() || only.contains(key(scope))) && (where == null || where.holds(scope));
        }

        private static String key(Scope scope) {
            return Plain.text(scope.device().get("key"));
        }
    }

    public Set<String> inlets() {
        return selection.inlets;
    }

    /** The condition; null for all messages. */
    public Condition pick() {
        return selection.pick;
    }

    /** Whether it takes what this scope shows. */
    public boolean takes(Scope scope) {
        return selection.devices.serves(scope) && (selection.pick == null || selection.pick.holds(scope));
    }

    /** Why it does not, in words; empty if it does. */
    public Optional<String> whyNot(Scope scope) {
        return selection
                .devices
                .whyNot(scope)
                .or(() -> Optional.ofNullable(selection.pick).flatMap(pick -> pick.whyNot(scope)));
    }
}
