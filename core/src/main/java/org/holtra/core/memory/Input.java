package org.holtra.core.memory;

import java.time.Instant;
import java.util.Comparator;
import java.util.Map;
import java.util.UUID;
import org.holtra.core.reading.time.EventTime;

/**
 * A message that a lane with memory took.
 *
 * @param received when it came
 * @param at when it was measured or happened, as far as that is believed
 * @param fields its data as a flat list: names of fields inside others joined with dots
 */
public record Input(UUID message, Instant received, Instant at, Map<String, Object> fields) {

    /** By the time of what they tell, then in the order they came. */
    static final Comparator<Input> BY_TIME = Comparator.comparing(Input::at)
            .thenComparing(Input::received)
            .thenComparing(Input::message, Input::unsigned);

    /**
     * A device whose clock is ahead must not make others of its messages late, nor name a time that has not come: what it says
     * to have been measured after it came counts as measured when it came.
     *
     * @param at as its device tells it
     */
    public static Input of(UUID message, Instant received, Instant at, Map<String, Object> fields) {
        return new Input(message, received, EventTime.believed(at, received), fields);
    }

    /** As the database orders ids, and not as {@link UUID#compareTo} does. */
    private static int unsigned(UUID one, UUID other) {
        int high = Long.compareUnsigned(one.getMostSignificantBits(), other.getMostSignificantBits());
        return high != 0 ? high : Long.compareUnsigned(one.getLeastSignificantBits(), other.getLeastSignificantBits());
    }

    /** The number in a field; null if there is none. */
    public Double number(String field) {
        return fields.get(field) instanceof Number number ? (Double) number.doubleValue() : null;
    }
}
