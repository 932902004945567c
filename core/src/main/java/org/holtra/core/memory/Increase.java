package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * By how much counters rose: with each message, or within each hour, day or month.
 *
 * @param counters the fields that count, and what their increase is called
 * @param intervals null for each message by itself
 * @param rollsAt the value at which a counter begins at 0 again; null if it does not
 * @param gapAfter a longer time between readings is a gap; null for none
 * @param spreads whether an increase is spread evenly over the time since the reading before, instead of standing at its end
 */
public record Increase(
        Map<String, String> counters,
        Intervals intervals,
        ZoneId zone,
        Double rollsAt,
        Duration gapAfter,
        boolean spreads)
        implements Operation<Increase.State> {

    private static final Duration KEPT = Duration.ofDays(90);

    /** A gap of more intervals is not spread, or one reading after years would make thousands of messages. */
    private static final int MOST_INTERVALS = 1_000;

    /** A fall from the upper to the lower quarter of its range is a counter that rolls over; any other is a restart. */
    private static final double EDGE = 0.25;

    /** A counter as it was read. */
    public record Reading(double value, Instant at) {}

    /**
     * What is known of an interval that is open.
     *
     * @param totals by the names of increases
     * @param notes on gaps and restarts
     */
    public record Open(
            Instant from,
            Instant to,
            Instant stamp,
            Instant lastCame,
            Map<String, Double> totals,
            List<String> notes) {}

    /**
     * @param readings the newest of each counter
     * @param open null where no interval is
     * @param messages how many were taken, which tells those of the same time apart
     * @param decided the event time of the newest message, or the end of the newest interval that was closed
     */
    public record State(Map<String, Reading> readings, Open open, long messages, Instant decided) {}

    @Override
    public State empty() {
        return new State(Map.of(), null, 0, Instant.MIN);
    }

    @Override
    public Class<State> stateType() {
        return State.class;
    }

    @Override
    public Instant decided(State state) {
        return state.decided;
    }

    /** A counter's increase from one reading to the next. */
    private record Counted(String name, double by, Instant since, String note) {}

    @Override
    public Step<State> take(State state, Input input) {
        Map<String, Reading> readings = new LinkedHashMap<>(state.readings);
        List<Counted> counted = new ArrayList<>();
        counters.forEach((counter, name) -> {
            Double value = input.number(counter);
            if (value != null) {
                Reading before = readings.put(counter, new Reading(value, input.at()));
                if (before != null) {
                    counted.add(counted(counter, name, before, value, input.at()));
                }
            }
        });
        State next = new State(readings, state.open, state.messages + 1, Downsample.later(state.decided, input.at()));
        if (counted.isEmpty()) {
            return Step.of(next, new Step.Fate.HeldBack(input.message(), none(input)));
        }
        return intervals == null ? alone(next, input, counted) : within(next, input, counted);
    }

    private String none(Input input) {
        return counters.keySet().stream().anyMatch(counter -> input.number(counter) != null)
                ? "the first reading of its counter: there is none before to compare it with"
                : "it holds none of " + String.join(", ", counters.keySet());
    }

    private Counted counted(String counter, String name, Reading before, double value, Instant at) {
        String gap = gapAfter != null && at.isAfter(before.at.plus(gapAfter))
                ? "no reading of " + counter + " from " + before.at + " to " + at
                : null;
        if (value >= before.value) {
            return new Counted(name, value - before.value, before.at, gap);
        }
        boolean rolled = rollsAt != null && before.value >= rollsAt * (1 - EDGE) && value < rollsAt * EDGE;
        double by = rolled ? rollsAt - before.value + value : value;
        String fall = rolled
                ? counter + " rolled over at " + at
                : counter + " started anew before " + at + "; what it counted until then is not known";
        return new Counted(name, by, before.at, gap == null ? fall : gap + "; " + fall);
    }

    private Step<State> alone(State state, Input input, List<Counted> counted) {
        Map<String, Object> data = new LinkedHashMap<>(input.fields());
        List<String> notes = new ArrayList<>();
        counted.forEach(one -> {
            data.put(one.name, one.by);
            note(notes, one.note);
        });
        Step.Name name = new Step.Name(input.at() + "#" + state.messages, input.received());
        return new Step<>(
                state,
                List.of(new Step.Fate.Merged(input.message(), name)),
                List.of(new Step.Made(
                        name, input.at(), data, notes.isEmpty() ? null : String.join("; ", notes), List.of())));
    }

    private Step<State> within(State state, Input input, List<Counted> counted) {
        Step<State> sofar = Step.of(state);
        Instant since =
                counted.stream().map(Counted::since).min(Instant::compareTo).orElseThrow();
        boolean spread = spreads && isSpreadable(since, input.at());
        Instant from = spread ? since : input.at();
        // A reading just at the end of an interval tells of that interval, not of the one that begins.
        Instant last = input.at().minusNanos(1);
        Intervals.Interval interval = intervals.of(spread && from.isBefore(last) ? from : last, zone);
        while (true) {
            sofar = sofar.then(open(sofar.state(), interval, input));
            sofar = sofar.then(Step.of(add(sofar.state(), counted, interval, input, spread)));
            if (interval.to().isAfter(last)) {
                break;
            }
            interval = intervals.of(interval.to(), zone);
        }
        return sofar.and(new Step.Fate.Merged(input.message(), name(sofar.state().open)));
    }

    private boolean isSpreadable(Instant from, Instant to) {
        int count = 0;
        for (Instant at = from; at.isBefore(to); at = intervals.of(at, zone).to()) {
            if (++count > MOST_INTERVALS) {
                return false;
            }
        }
        return true;
    }

    /** Makes this interval the open one, and closes the one before. */
    private Step<State> open(State state, Intervals.Interval interval, Input input) {
        if (state.open != null && state.open.from.equals(interval.from())) {
            return Step.of(state);
        }
        Step<State> before = state.open == null ? Step.of(state) : close(state);
        State closed = before.state();
        Open fresh = new Open(
                interval.from(),
                interval.to(),
                Downsample.stamp(interval.to(), input.received()),
                input.received(),
                Map.of(),
                List.of());
        return before.then(Step.of(new State(closed.readings, fresh, closed.messages, closed.decided)));
    }

    private State add(State state, List<Counted> counted, Intervals.Interval interval, Input input, boolean spread) {
        Map<String, Double> totals = new LinkedHashMap<>(state.open.totals);
        List<String> notes = new ArrayList<>(state.open.notes);
        for (Counted one : counted) {
            double share = spread ? share(one.since, input.at(), interval) : 1;
            if (share > 0) {
                totals.merge(one.name, one.by * share, Double::sum);
                note(notes, one.note == null || !spread ? one.note : one.note + " (spread over that time)");
            }
        }
        Open open = state.open;
        return new State(
                state.readings,
                new Open(
                        open.from,
                        open.to,
                        open.stamp,
                        Downsample.later(open.lastCame, input.received()),
                        totals,
                        notes),
                state.messages,
                state.decided);
    }

    /** How much of a stretch lies within an interval, from 0 to 1. */
    private static double share(Instant from, Instant to, Intervals.Interval interval) {
        Instant begin = Downsample.later(from, interval.from());
        Instant end = to.isBefore(interval.to()) ? to : interval.to();
        long whole = Duration.between(from, to).toNanos();
        return whole == 0 ? 1 : Math.max(0, Duration.between(begin, end).toNanos() / (double) whole);
    }

    private static void note(List<String> notes, String note) {
        if (note != null && !notes.contains(note) && notes.size() < 20) {
            notes.add(note);
        }
    }

    @Override
    public Optional<Instant> due(State state) {
        return state.open == null
                ? Optional.empty()
                : Optional.of(Downsample.later(state.open.to, state.open.lastCame));
    }

    @Override
    public Step<State> wake(State state, Instant due) {
        return close(state);
    }

    @Override
    public Optional<Step.Name> making(State state) {
        return state.open == null ? Optional.empty() : Optional.of(name(state.open));
    }

    @Override
    public Step<State> end(State state) {
        if (state.open == null) {
            return Step.of(state);
        }
        List<String> notes = new ArrayList<>(state.open.notes);
        notes.add("closed early, since the lane was changed");
        Open open = state.open;
        return close(new State(
                state.readings,
                new Open(open.from, open.to, open.stamp, open.lastCame, open.totals, notes),
                state.messages,
                state.decided));
    }

    @Override
    public Map<String, Object> form() {
        Map<String, Object> form = new LinkedHashMap<>();
        form.put("counters", new TreeMap<>(counters));
        form.put("intervals", intervals == null ? null : intervals.word());
        form.put("zone", zone);
        form.put("rollsAt", rollsAt);
        form.put("gapAfter", gapAfter);
        form.put("spreads", spreads);
        return OperationForms.form("increase", form);
    }

    private Step<State> close(State state) {
        Open open = state.open;
        State next = new State(state.readings, null, state.messages, Downsample.later(state.decided, open.to));
        return Step.of(
                next,
                new Step.Made(
                        name(open),
                        open.from,
                        Map.copyOf(open.totals),
                        open.notes.isEmpty() ? null : String.join("; ", open.notes),
                        List.of()));
    }

    private static Step.Name name(Open open) {
        return new Step.Name(open.from.toString(), open.stamp);
    }

    @Override
    public Increase in(ZoneId of) {
        return new Increase(counters, intervals, of, rollsAt, gapAfter, spreads);
    }

    @Override
    public Duration kept() {
        return KEPT;
    }
}
