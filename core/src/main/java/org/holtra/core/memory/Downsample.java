package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * One message an interval, made of all that came in it.
 *
 * @param intervals by the clock; null to begin each with its first message
 * @param length of an interval that begins with its first message; null for those by the clock
 * @param fields what is chosen for which field
 * @param rest what is chosen for others; null to leave them out
 */
public record Downsample(Intervals intervals, Duration length, ZoneId zone, Map<String, Choice> fields, Choice rest)
        implements Operation<Downsample.State> {

    /**
     * @param from where the interval begins that is open; null if none is
     * @param stamp that stands for the time of arrival of what is made of it
     * @param lastCame when the newest of its messages came
     * @param closed up to where all is closed
     */
    public record State(
            Instant from,
            Instant to,
            Instant stamp,
            Instant lastCame,
            long messages,
            Map<String, Aggregate> values,
            Instant closed) {}

    private static final Duration KEPT = Duration.ofDays(2);

    /** A stamp names the table of a day, and tables are made so far ahead where they are wanted. */
    private static final Duration FARTHEST = Duration.ofDays(32);

    @Override
    public State empty() {
        return closed(Instant.MIN);
    }

    private static State closed(Instant to) {
        return new State(null, null, null, null, 0, Map.of(), to);
    }

    @Override
    public Class<State> stateType() {
        return State.class;
    }

    @Override
    public Instant decided(State state) {
        return state.from == null ? state.closed : state.from;
    }

    @Override
    public Step<State> take(State state, Input input) {
        if (state.from != null && !input.at().isBefore(state.to)) {
            Step<State> done = close(state);
            return done.then(take(done.state(), input));
        }
        State open = state.from == null ? open(state, input) : state;
        State next = new State(
                open.from,
                open.to,
                open.stamp,
                later(open.lastCame, input.received()),
                open.messages + 1,
                with(open.values, input),
                open.closed);
        return Step.of(next, new Step.Fate.Merged(input.message(), name(next)));
    }

    private State open(State state, Input input) {
        Intervals.Interval interval = intervals == null
                ? new Intervals.Interval(input.at(), input.at().plus(length))
                : intervals.of(input.at(), zone);
        return new State(
                interval.from(),
                interval.to(),
                stamp(interval.to(), input.received()),
                input.received(),
                0,
                Map.of(),
                state.closed);
    }

    /** The end of an interval, or the time of arrival where that is later; never far ahead of what has come. */
    static Instant stamp(Instant end, Instant received) {
        Instant farthest = received.plus(FARTHEST);
        return later(end.isAfter(farthest) ? farthest : end, received);
    }

    private Map<String, Aggregate> with(Map<String, Aggregate> before, Input input) {
        Map<String, Aggregate> next = new LinkedHashMap<>(before);
        input.fields().forEach((name, value) -> {
            Choice choice = fields.getOrDefault(name, rest);
            if (choice != null && (value instanceof Number || !choice.isOfNumbers())) {
                Aggregate known = next.get(name);
                next.put(name, known == null ? Aggregate.first(value) : known.and(value, choice));
            }
        });
        return next;
    }

    @Override
    public Optional<Instant> due(State state) {
        return state.from == null ? Optional.empty() : Optional.of(later(state.to, state.lastCame));
    }

    @Override
    public Step<State> wake(State state, Instant due) {
        return close(state);
    }

    @Override
    public Optional<Step.Name> making(State state) {
        return state.from == null ? Optional.empty() : Optional.of(name(state));
    }

    @Override
    public Step<State> end(State state) {
        return state.from == null ? Step.of(state) : close(state, "; closed early, since the lane was changed");
    }

    @Override
    public Map<String, Object> form() {
        Map<String, Object> form = new LinkedHashMap<>();
        form.put("intervals", intervals == null ? null : intervals.word());
        form.put("length", length);
        form.put("zone", zone);
        Map<String, String> choices = new TreeMap<>();
        fields.forEach((name, choice) -> choices.put(name, choice.word()));
        form.put("fields", choices);
        form.put("rest", rest == null ? null : rest.word());
        return OperationForms.form("downsample", form);
    }

    private Step<State> close(State state) {
        return close(state, "");
    }

    private Step<State> close(State state, String more) {
        Map<String, Object> data = new LinkedHashMap<>();
        state.values.forEach((name, values) -> {
            Object chosen = values.chosen(fields.getOrDefault(name, rest));
            if (chosen != null) {
                data.put(name, chosen);
            }
        });
        return Step.of(
                closed(state.to),
                new Step.Made(
                        name(state),
                        state.from,
                        data,
                        "made of " + state.messages + (state.messages == 1 ? " message" : " messages") + ", from "
                                + state.from + " up to " + state.to + more,
                        List.of()));
    }

    private static Step.Name name(State state) {
        return new Step.Name(state.from.toString(), state.stamp);
    }

    @Override
    public Downsample in(ZoneId of) {
        return new Downsample(intervals, length, of, fields, rest);
    }

    @Override
    public Duration kept() {
        return KEPT;
    }

    static Instant later(Instant one, Instant other) {
        return one.isAfter(other) ? one : other;
    }
}
