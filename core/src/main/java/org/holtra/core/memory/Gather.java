package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Several messages that belong together become one: until all fields are there, or so many have come, or so much time has
 * passed since the first.
 *
 * @param fields that are expected; empty to count messages only
 * @param count of messages; null to wait for fields only
 * @param within how far their event times may lie apart, and how long the others are waited for
 * @param incomplete what becomes of one whose parts did not all come
 */
public record Gather(Set<String> fields, Integer count, Duration within, Incomplete incomplete)
        implements Operation<Gather.State> {

    private static final Duration KEPT = Duration.ofDays(2);

    /** What waits for parts that never come is not kept for ever, and nothing vanishes: it becomes a dead letter then. */
    private static final Duration LONGEST_WAIT = Duration.ofDays(30);

    /** What becomes of one whose parts did not all come. */
    public enum Incomplete {
        GO,
        WAIT,
        DIE;

        public static Optional<Incomplete> of(String word) {
            return List.of(values()).stream()
                    .filter(one -> one.name().toLowerCase(Locale.ROOT).equals(word))
                    .findFirst();
        }
    }

    /**
     * @param first the event time of its first part; null if none has come
     * @param stamp that stands for the time of arrival of what is made of it
     * @param lastCame when the newest of its parts came
     * @param data of all parts, newer values in place of older ones
     * @param number of what is made, which tells two with the same first time apart
     * @param closed the newest event time in what was made before
     */
    public record State(
            Instant first,
            Instant latest,
            Instant stamp,
            Instant lastCame,
            long messages,
            Map<String, Object> data,
            long number,
            Instant closed) {}

    @Override
    public State empty() {
        return closed(0, Instant.MIN);
    }

    private static State closed(long number, Instant closed) {
        return new State(null, null, null, null, 0, Map.of(), number, closed);
    }

    @Override
    public Class<State> stateType() {
        return State.class;
    }

    @Override
    public Instant decided(State state) {
        return state.first == null ? state.closed : state.first.minus(within);
    }

    @Override
    public Step<State> take(State state, Input input) {
        boolean another = state.first != null
                && incomplete != Incomplete.WAIT
                && input.at().isAfter(state.first.plus(within));
        if (another) {
            Step<State> done = end(state);
            return done.then(take(done.state(), input));
        }
        State next = with(state, input);
        Step<State> taken = Step.of(next, new Step.Fate.Merged(input.message(), name(next)));
        return isComplete(next) ? taken.then(end(next)) : taken;
    }

    private static State with(State state, Input input) {
        Map<String, Object> data = new LinkedHashMap<>(state.data);
        data.putAll(input.fields());
        boolean opens = state.first == null;
        return new State(
                opens ? input.at() : state.first,
                opens ? input.at() : Thin.later(state.latest, input.at()),
                opens ? input.received() : state.stamp,
                opens ? input.received() : Thin.later(state.lastCame, input.received()),
                state.messages + 1,
                data,
                opens ? state.number + 1 : state.number,
                state.closed);
    }

    private boolean isComplete(State state) {
        return count != null && state.messages >= count
                || !fields.isEmpty() && missing(state).isEmpty();
    }

    private List<String> missing(State state) {
        return fields.stream()
                .filter(field -> !state.data.containsKey(field))
                .sorted()
                .toList();
    }

    @Override
    public Optional<Instant> due(State state) {
        if (state.first == null) {
            return Optional.empty();
        }
        if (incomplete == Incomplete.WAIT) {
            return Optional.of(state.stamp.plus(LONGEST_WAIT));
        }
        return Optional.of(
                state.lastCame.isAfter(state.first.plus(within)) ? state.stamp.plus(within) : state.first.plus(within));
    }

    @Override
    public Step<State> wake(State state, Instant due) {
        return end(state);
    }

    private Step<State> end(State state) {
        List<String> missing = isComplete(state) ? List.of() : missing(state);
        String lack = isComplete(state)
                ? ""
                : missing.isEmpty()
                        ? "; only " + state.messages + " of " + count + " came"
                        : "; missing: " + String.join(", ", missing);
        Step.Made made = new Step.Made(
                name(state),
                state.first,
                state.data,
                "gathered from " + state.messages + (state.messages == 1 ? " message" : " messages") + lack,
                incomplete != Incomplete.GO && !isComplete(state)
                        ? missing.isEmpty() ? List.of(lack.substring(2)) : missing
                        : List.of());
        return Step.of(closed(state.number, Thin.later(state.closed, state.latest)), made);
    }

    private static Step.Name name(State state) {
        return new Step.Name(state.first + "#" + state.number, state.stamp);
    }

    @Override
    public Duration kept() {
        return KEPT;
    }
}
