package org.holtra.core.setup;

import java.time.Duration;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.lookout.Silence;
import org.holtra.core.lookout.Watch;
import org.holtra.core.memory.Memory;

/**
 * Watches messages of inlets for a sign, and raises and clears alarms, compiled.
 *
 * @param selection which messages it looks at
 * @param perPoint whether each point of a device is watched by itself
 * @param value gives the number that it watches; null where it watches for silence
 * @param key gives what is watched as one; null for the device
 * @param lateness allowed lateness: how long after messages with later event times a message may still come
 */
public record Lookout(
        String name,
        Lane.Selection selection,
        boolean perPoint,
        Expression value,
        Expression key,
        Duration lateness,
        Watch watch) {

    /** Tells a device and its point apart in a key. */
    private static final char POINT = '#';

    /** What is remembered of its keys, and how. */
    public Memory memory() {
        return new Memory(key, null, lateness, false, watch, null);
    }

    /** @param point null if it is about the message as a whole */
    public String keyOf(Scope scope, String point) {
        String whole = memory().keyOf(scope);
        return point == null ? whole : whole + POINT + point;
    }

    /** The point that a key of it is about; null if it is about none. */
    public String pointOf(String of) {
        return perPoint ? of.substring(of.lastIndexOf(POINT) + 1) : null;
    }

    /** Whether it looks at what this scope shows: where it watches a value, one must be there. */
    public boolean watches(Scope scope) {
        return selection.devices().serves(scope)
                && (selection.pick() == null || selection.pick().holds(scope))
                && (value == null || valueIn(scope) != null);
    }

    /** Whether it raises an alarm where nothing comes. */
    public boolean watchesForSilence() {
        return watch.sign() instanceof Silence;
    }

    /** The value it watches; null if there is no number. */
    public Double valueIn(Scope scope) {
        return value != null
                        && value.evaluate(scope) instanceof Outcome.Value(Object result)
                        && Plain.of(result) instanceof Number number
                ? (Double) number.doubleValue()
                : null;
    }
}
