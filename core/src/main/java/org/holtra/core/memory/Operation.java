package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Map;
import java.util.Optional;

/**
 * What a lane does with the messages of one key, in the order of their event times.
 *
 * @param <S> what it remembers of the key: values that can be written as JSON
 */
public interface Operation<S> {

    /** What it remembers of a key it has not met. */
    S empty();

    /** The type of what it remembers. */
    Class<S> stateType();

    /** Takes the next message. */
    Step<S> take(S state, Input input);

    /** The event time before which all is decided: what is earlier and comes now is late. */
    Instant decided(S state);

    /** When something is to be done if nothing more comes; empty if nothing is. Lateness is not counted in. */
    default Optional<Instant> due(S state) {
        return Optional.empty();
    }

    /** Does what was due at this time. */
    default Step<S> wake(S state, Instant due) {
        return Step.of(state);
    }

    /** The same for a time zone. */
    default Operation<S> in(ZoneId zone) {
        return this;
    }

    /** What is being made of messages that were taken, and is not made yet; empty if nothing is. */
    default Optional<Step.Name> making(S state) {
        return Optional.empty();
    }

    /** Makes what is being made, though it is not due: something else is done with the key from now on. */
    default Step<S> end(S state) {
        return Step.of(state);
    }

    /**
     * What it does, to be stored beside what it remembers: the same for the same operation, and the other way round. Where the
     * layout of either changes, the number under {@code version} does.
     *
     * @see OperationForms
     */
    Map<String, Object> form();

    /** How long a key is remembered of which nothing comes. */
    Duration kept();
}
