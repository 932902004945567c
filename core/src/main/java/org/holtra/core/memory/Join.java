package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * Several messages that belong together become one: until all fields are there, or so many have come, or so much time has
 * passed since the first.
 *
 * @param fields that are expected; empty to count messages only
 * @param count of messages; null to wait for fields only
 * @param within how far their event times may lie apart, and how long the others are waited for
 * @param incomplete what becomes of one whose parts did not all come
 * @param differing what is done with a value of an expected field, or of any where none are said, that has come already with
 *     another. Of other fields, such as the time in each part, the latest value is kept, and a note says so
 */
public record Join(Set<String> fields, Integer count, Duration within, Incomplete incomplete, Differing differing)
        implements Operation<Join.State> {

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

    /** What is done with a value of a field that has come already with another: two never become one in silence. */
    public enum Differing {
        /** The one that is open is closed, and the next begins. */
        NEXT,
        /** Both are kept, as a list. */
        LIST;

        public static Optional<Differing> of(String word) {
            return List.of(values()).stream()
                    .filter(one -> one.word().equals(word))
                    .findFirst();
        }

        String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /**
     * @param first the event time of its first part; null if none has come
     * @param stamp that stands for the time of arrival of what is made of it
     * @param lastCame when the newest of its parts came
     * @param data of all parts
     * @param several all values of those fields that came with more than one, and keep them
     * @param replaced the fields that came with more than one, and keep the latest
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
            Map<String, List<Object>> several,
            List<String> replaced,
            long number,
            Instant closed) {}

    @Override
    public State empty() {
        return closed(0, Instant.MIN);
    }

    private static State closed(long number, Instant closed) {
        return new State(null, null, null, null, 0, Map.of(), Map.of(), List.of(), number, closed);
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
            Step<State> done = end(state, "");
            return done.then(take(done.state(), input));
        }
        Optional<String> differs = differing == Differing.NEXT ? differing(state, input) : Optional.empty();
        if (differs.isPresent()) {
            Step<State> done = end(state, "; closed since " + differs.get() + " came again with another value");
            return done.then(take(done.state(), input));
        }
        State next = with(state, input);
        Step<State> taken = Step.of(next, new Step.Fate.Merged(input.message(), name(next)));
        return isComplete(next) ? taken.then(end(next, "")) : taken;
    }

    /** A field that came before with another value. */
    private Optional<String> differing(State state, Input input) {
        return input.fields().entrySet().stream()
                .filter(field -> isExpected(field.getKey())
                        && state.data.containsKey(field.getKey())
                        && !isSame(state.data.get(field.getKey()), field.getValue()))
                .map(Map.Entry::getKey)
                .findFirst();
    }

    private boolean isExpected(String field) {
        return fields.isEmpty() || fields.contains(field);
    }

    /** What was read from JSON may be of another type of number. */
    private static boolean isSame(Object one, Object other) {
        return one instanceof Number a && other instanceof Number b
                ? a.doubleValue() == b.doubleValue()
                : Objects.equals(one, other);
    }

    private State with(State state, Input input) {
        Map<String, Object> data = new LinkedHashMap<>(state.data);
        Map<String, List<Object>> several = new LinkedHashMap<>(state.several);
        Set<String> replaced = new TreeSet<>(state.replaced);
        input.fields().forEach((name, value) -> {
            boolean differs = data.containsKey(name) && !isSame(data.get(name), value);
            if (differs && !isExpected(name)) {
                replaced.add(name);
            } else if (differs) {
                List<Object> values = new ArrayList<>(several.getOrDefault(name, List.of(data.get(name))));
                values.add(value);
                several.put(name, values);
            }
            data.put(name, value);
        });
        boolean opens = state.first == null;
        return new State(
                opens ? input.at() : state.first,
                opens ? input.at() : Downsample.later(state.latest, input.at()),
                opens ? input.received() : state.stamp,
                opens ? input.received() : Downsample.later(state.lastCame, input.received()),
                state.messages + 1,
                data,
                several,
                List.copyOf(replaced),
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
        return end(state, "");
    }

    @Override
    public Optional<Step.Name> making(State state) {
        return state.first == null ? Optional.empty() : Optional.of(name(state));
    }

    @Override
    public Map<String, Object> form() {
        Map<String, Object> form = new LinkedHashMap<>();
        form.put("fields", fields.stream().sorted().toList());
        form.put("count", count);
        form.put("within", within);
        form.put("incomplete", incomplete.name().toLowerCase(Locale.ROOT));
        form.put("differing", differing.word());
        return OperationForms.form("join", form);
    }

    private static Map<String, Object> data(State state) {
        Map<String, Object> data = new LinkedHashMap<>(state.data);
        data.putAll(state.several);
        return data;
    }

    private static String several(State state) {
        String all = state.several.isEmpty()
                ? ""
                : "; " + String.join(", ", state.several.keySet()) + " came with several values, and all are kept";
        return state.replaced.isEmpty()
                ? all
                : all + "; " + String.join(", ", state.replaced) + " came with several values, and the latest is kept";
    }

    @Override
    public Step<State> end(State state) {
        return state.first == null ? Step.of(state) : end(state, "; closed early, since the lane was changed");
    }

    private Step<State> end(State state, String why) {
        List<String> missing = isComplete(state) ? List.of() : missing(state);
        String lack = isComplete(state)
                ? ""
                : missing.isEmpty()
                        ? "; only " + state.messages + " of " + count + " came"
                        : "; missing: " + String.join(", ", missing);
        Step.Made made = new Step.Made(
                name(state),
                state.first,
                data(state),
                "joined from " + state.messages + (state.messages == 1 ? " message" : " messages") + lack + why
                        + several(state),
                incomplete != Incomplete.GO && !isComplete(state)
                        ? missing.isEmpty() ? List.of(lack.substring(2)) : missing
                        : List.of());
        return Step.of(closed(state.number, Downsample.later(state.closed, state.latest)), made);
    }

    private static Step.Name name(State state) {
        return new Step.Name(state.first + "#" + state.number, state.stamp);
    }

    @Override
    public Duration kept() {
        return KEPT;
    }
}
