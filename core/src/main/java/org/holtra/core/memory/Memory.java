package org.holtra.core.memory;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.time.ZoneOffset;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/**
 * What a lane remembers, and what it does with that.
 *
 * @param key gives what messages have in common that belong together; null for their device
 * @param zone gives the name of the time zone for intervals by the clock; null for UTC
 * @param tolerance by how much a message may come after others that tell of later times
 * @param passesLate whether what comes later still is passed on, marked late, instead of ending there
 * @param operation with UTC for its zone; null if it unfolds
 * @param unfold what it does with each message by itself; null if it is the operation that is done
 */
public record Memory(
        Expression key,
        Expression zone,
        Duration tolerance,
        boolean passesLate,
        Operation<?> operation,
        Unfold unfold) {

    private static final String KEY = "key";

    /** The key of a message; empty if it has none, and then it is remembered together with all others that have none. */
    public String keyOf(Scope scope) {
        if (key == null) {
            Object device = scope.device().get(KEY);
            return device == null ? "" : Plain.text(device);
        }
        return key.evaluate(scope) instanceof Outcome.Value(Object value) ? Plain.text(value) : "";
    }

    /** The zone of a message; UTC where what is given is no zone. */
    public ZoneId zoneOf(Scope scope) {
        if (zone == null || !(zone.evaluate(scope) instanceof Outcome.Value(Object value))) {
            return ZoneOffset.UTC;
        }
        try {
            return ZoneId.of(Plain.text(value));
        } catch (DateTimeException e) {
            // A fact that is no zone must not stop the messages of its device.
            return ZoneOffset.UTC;
        }
    }

    /** Timelines of keys whose messages are of this zone. */
    public Timeline<?> timeline(ZoneId of) {
        return new Timeline<>(operation.in(of), tolerance, passesLate);
    }
}
