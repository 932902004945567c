package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;

/**
 * Brings the messages of one key into the order of their event times before an operation sees them. Each waits as long as
 * others may be late; when its time is over it goes, and before it all that are earlier and have come by then. What is
 * done follows from the times in the messages alone: done later, after a stop, it comes to the same.
 *
 * @param lateness allowed lateness: how long after messages with later event times a message may still come
 * @param passesLate whether what comes later still is passed on, marked late, instead of ending here
 */
public record Timeline<S>(Operation<S> operation, Duration lateness, boolean passesLate) {

    /**
     * What is remembered of a key.
     *
     * @param waiting messages that others may still overtake
     * @param generation how often what is done with the key has changed, which tells what was made before from what is made
     *     since
     */
    public record State<S>(List<Input> waiting, S own, long generation) {

        public State(List<Input> waiting, S own) {
            this(waiting, own, 0);
        }
    }

    public State<S> empty() {
        return empty(0);
    }

    /** What is remembered of a key with which something else was done before. */
    public State<S> empty(long generation) {
        return new State<>(List.of(), operation.empty(), generation);
    }

    /** What is being made of messages that were taken, and is not made yet; empty if nothing is. */
    public Optional<Step.Name> making(State<S> state) {
        return operation.making(state.own).map(name -> named(name, state.generation));
    }

    /** Makes what is being made. What waits is left to whatever is done with the key from now on. */
    public Step<State<S>> end(State<S> state) {
        Step<S> ended = named(operation.end(state.own), state.generation);
        return new Step<>(new State<>(List.of(), ended.state(), state.generation), ended.fates(), ended.made());
    }

    private static Step.Name named(Step.Name name, long generation) {
        return generation == 0 ? name : new Step.Name(name.text() + "/" + generation, name.stamp());
    }

    private static <S> Step<S> named(Step<S> step, long generation) {
        return generation == 0
                ? step
                : new Step<>(
                        step.state(),
                        step.fates().stream()
                                .map(fate -> fate instanceof Step.Fate.Merged(var message, var into)
                                        ? new Step.Fate.Merged(message, named(into, generation))
                                        : fate)
                                .toList(),
                        step.made().stream()
                                .map(one -> new Step.Made(
                                        named(one.name(), generation), one.at(), one.data(), one.note(), one.missing()))
                                .toList());
    }

    /** When something is to be done if nothing more comes. */
    public Optional<Instant> due(State<S> state) {
        Optional<Instant> released = first(state.waiting).map(this::released);
        Optional<Instant> own = operation.due(state.own).map(at -> at.plus(lateness));
        return released.isPresent() && own.isPresent()
                ? Optional.of(earlier(released.get(), own.get()))
                : released.or(() -> own);
    }

    /** Takes messages that came, and does all that is due by now. */
    public Step<State<S>> advance(State<S> state, List<Input> came, Instant now) {
        Run run = new Run(state, came);
        while (run.goesOn(now)) {
            // what is due first was done
        }
        return new Step<>(
                new State<>(List.copyOf(run.waiting), run.own, state.generation),
                List.copyOf(run.fates),
                List.copyOf(run.made));
    }

    /** What is done in one go. */
    private final class Run {

        private final List<Input> waiting;
        private final List<Step.Fate> fates = new ArrayList<>();
        private final List<Step.Made> made = new ArrayList<>();
        private final long generation;
        private S own;

        Run(State<S> state, List<Input> came) {
            generation = state.generation;
            waiting = new ArrayList<>(state.waiting);
            waiting.addAll(came);
            own = state.own;
        }

        /** Does what is due first; false if nothing is due by now. */
        boolean goesOn(Instant now) {
            Optional<Instant> released =
                    first(waiting).map(Timeline.this::released).filter(at -> !at.isAfter(now));
            Optional<Instant> due =
                    operation.due(own).map(at -> at.plus(lateness)).filter(at -> !at.isAfter(now));
            if (due.isPresent() && (released.isEmpty() || due.get().isBefore(released.get()))) {
                close(due.get());
                return true;
            }
            released.ifPresent(moment -> release(first(waiting).orElseThrow(), moment));
            return released.isPresent();
        }

        /** Before something is closed, what belongs into it and has come by then goes in. */
        private void close(Instant moment) {
            Instant end = moment.minus(lateness);
            Optional<Input> last = waiting.stream()
                    .filter(one -> one.at().isBefore(end) && !one.received().isAfter(moment))
                    .max(Input.BY_TIME);
            if (last.isPresent()) {
                release(last.get(), moment);
            } else {
                add(operation.wake(own, end));
            }
        }

        /** This one goes, and before it all that are earlier and had come by then. */
        private void release(Input last, Instant moment) {
            Predicate<Input> goes = one ->
                    Input.BY_TIME.compare(one, last) <= 0 && !one.received().isAfter(moment);
            List<Input> going =
                    waiting.stream().filter(goes).sorted(Input.BY_TIME).toList();
            waiting.removeIf(goes);
            for (Input one : going) {
                if (one.at().isBefore(operation.decided(own))) {
                    fates.add(late(one));
                } else {
                    add(operation.take(own, one));
                }
            }
        }

        private void add(Step<S> unnamed) {
            Step<S> step = named(unnamed, generation);
            own = step.state();
            fates.addAll(step.fates());
            made.addAll(step.made());
        }
    }

    private Step.Fate late(Input one) {
        return passesLate
                ? new Step.Fate.Passed(one.message(), true)
                : new Step.Fate.HeldBack(
                        one.message(), "it tells of " + one.at() + ", and what was before that is decided already");
    }

    private Instant released(Input one) {
        return one.received().plus(lateness);
    }

    private static Optional<Input> first(List<Input> waiting) {
        return waiting.stream().min(Comparator.comparing(Input::received).thenComparing(Input.BY_TIME));
    }

    private static Instant earlier(Instant one, Instant other) {
        return one.isBefore(other) ? one : other;
    }
}
