package org.holtra.core.memory;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Objects;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/**
 * What a lane remembers, and what it does with that.
 *
 * @param key gives what messages have in common that belong together; null for their device
 * @param zone gives the name of the time zone for intervals by the clock; null for that of the device
 * @param lateness allowed lateness: how long after messages with later event times a message may still come
 * @param passesLate whether what comes later still is passed on, marked late, instead of ending there
 * @param operation with UTC for its zone; null if it splits
 * @param split what it does with each message by itself; null if it is the operation that is done
 */
public record Memory(
        Expression key, Expression zone, Duration lateness, boolean passesLate, Operation<?> operation, Split split) {

    private static final String KEY = "key";
    private static final String ZONE = "zone";

    /** The key of a message; empty if it has none, and then it is remembered together with all others that have none. */
    public String keyOf(Scope scope) {
        if (key == null) {
            Object device = scope.device().get(KEY);
            return device == null ? "" : Plain.text(device);
        }
        return key.evaluate(scope) instanceof Outcome.Value(Object value) ? Plain.text(value) : "";
    }

    /** The zone of a message; UTC where none is known, or what is given is none. */
    public ZoneId zoneOf(Scope scope) {
        Object name = zone == null
                ? scope.device().get(ZONE)
                : zone.evaluate(scope) instanceof Outcome.Value(Object value) ? value : null;
        if (name == null) {
            return ZoneOffset.UTC;
        }
        try {
            return ZoneId.of(Plain.text(name));
        } catch (DateTimeException e) {
            // A fact that is no zone must not stop the messages of its device.
            return ZoneOffset.UTC;
        }
    }

    /** Whether another makes the same of the same messages. */
    public boolean doesAs(Memory other) {
        return lateness.equals(other.lateness)
                && passesLate == other.passesLate
                && Objects.equals(operation, other.operation)
                && Objects.equals(source(key), source(other.key))
                && Objects.equals(source(zone), source(other.zone))
                && Objects.equals(
                        split == null ? null : split.sources(), other.split == null ? null : other.split.sources());
    }

    private static String source(Expression expression) {
        return expression == null ? null : expression.source();
    }

    /** Timelines of keys whose messages are of this zone. */
    public Timeline<?> timeline(ZoneId of) {
        return new Timeline<>(operation.in(of), lateness, passesLate);
    }
}
