package org.holtra.core.reading;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.Reading;
import org.holtra.core.message.Sort;
import org.holtra.core.setup.Inlet;

/** Reads an arrival: its content into fields, the device that sent it, when it was measured, what sort it is. */
public final class Reader {

    private static final int LONGEST_KEY = 200;

    private final JsonFormat json = new JsonFormat();

    /** The data of an arrival alone, as expressions see them. */
    public Object data(byte[] body) throws UnreadableContent {
        return json.parse(body);
    }

    public Reading read(Arrival arrival, Inlet inlet) {
        boolean simulated = false;
        try {
            Scope beforeReading = new Scope(Map.of(), Meta.of(arrival), Map.of());
            simulated = holds(inlet, beforeReading);
            Object data = json.parse(arrival.body());
            Scope scope = new Scope(data, Meta.of(arrival), Map.of());
            simulated = holds(inlet, scope);
            String device = device(inlet.device(), scope);
            Sort sort = sort(inlet.sort(), scope);
            return time(
                    new Message(arrival, device, arrival.received(), sort, simulated, data, null), inlet.time(), scope);
        } catch (UnreadableContent e) {
            return new Reading.Unreadable(arrival, e.getMessage(), simulated);
        }
    }

    private static boolean holds(Inlet inlet, Scope scope) {
        return inlet.simulated() != null && inlet.simulated().holds(scope);
    }

    private static String device(Expression expression, Scope scope) throws UnreadableContent {
        if (expression == null) {
            return null;
        }
        Object value = value(expression, scope, "the device");
        if (value instanceof Map<?, ?> || value instanceof Iterable<?>) {
            throw new UnreadableContent("the device's key is " + Plain.brief(value) + ", a text was expected");
        }
        String key = Plain.text(value).strip();
        boolean storable = StandardCharsets.UTF_8.newEncoder().canEncode(key)
                && key.chars().noneMatch(Character::isISOControl);
        if (key.isEmpty() || key.length() > LONGEST_KEY || !storable) {
            throw new UnreadableContent("the device's key is " + Plain.brief(key) + ", a text of 1 to " + LONGEST_KEY
                    + " characters of Unicode without control characters was expected");
        }
        return key;
    }

    private static Sort sort(Expression expression, Scope scope) throws UnreadableContent {
        if (expression == null) {
            return Sort.READING;
        }
        Object value = value(expression, scope, "the sort");
        Optional<Sort> sort = value instanceof String word ? Sort.of(word) : Optional.empty();
        return sort.orElseThrow(() -> new UnreadableContent(
                "the sort is " + Plain.brief(value) + ", one of " + Sort.words() + " was expected"));
    }

    private static Object value(Expression expression, Scope scope, String what) throws UnreadableContent {
        return switch (expression.evaluate(scope)) {
            case Outcome.Value(Object value) -> value;
            case Outcome.None(String reason, boolean missing) ->
                throw new UnreadableContent(what + " could not be told: " + reason);
        };
    }

    /** A time that cannot be told is no reason to lose a reading: the time of arrival stands in, and a note says so. */
    private static Reading time(Message message, Expression expression, Scope scope) {
        if (expression == null) {
            return new Reading.Read(message);
        }
        return switch (expression.evaluate(scope)) {
            case Outcome.None(String reason, boolean missing) -> new Reading.Read(arrivalTime(message, reason));
            case Outcome.Value(Object value) ->
                new Reading.Read(EventTime.of(value)
                        .map(time -> withTime(message, time, null))
                        .orElseGet(() -> arrivalTime(message, Plain.brief(value) + " is not a time")));
        };
    }

    private static Message arrivalTime(Message message, String reason) {
        return withTime(
                message,
                message.arrival().received(),
                "the event time could not be told, so the time of arrival stands for it: " + reason);
    }

    private static Message withTime(Message message, Instant time, String note) {
        return new Message(
                message.arrival(), message.device(), time, message.sort(), message.simulated(), message.data(), note);
    }
}
