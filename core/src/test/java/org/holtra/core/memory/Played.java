package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Messages of one key, played through a timeline as they come, or all at once after a stop. */
final class Played<S> {

    static final Instant T0 = Instant.parse("2026-04-12T00:00:00Z");

    private final Timeline<S> timeline;
    private final List<Step.Fate> fates = new ArrayList<>();
    private final List<Step.Made> made = new ArrayList<>();
    private Timeline.State<S> state;

    Played(Timeline<S> timeline) {
        this.timeline = timeline;
        this.state = timeline.empty();
    }

    /** A message with a number for its id, received and measured so many seconds after the start. */
    static Input input(int number, long received, long at, Map<String, Object> fields) {
        return new Input(new UUID(0x7000, number), T0.plusSeconds(received), T0.plusSeconds(at), fields);
    }

    /** Each is taken when it comes. */
    Played<S> asItComes(List<Input> inputs) {
        inputs.stream()
                .sorted(Comparator.comparing(Input::received))
                .forEach(one -> advance(List.of(one), one.received()));
        return this;
    }

    /** All are taken at once, at a time after all of them. */
    Played<S> atOnce(List<Input> inputs) {
        return advance(inputs, T0.plus(Duration.ofDays(3)));
    }

    Played<S> until(long seconds) {
        return advance(List.of(), T0.plusSeconds(seconds));
    }

    private Played<S> advance(List<Input> inputs, Instant now) {
        Step<Timeline.State<S>> step = timeline.advance(state, inputs, now);
        state = step.state();
        fates.addAll(step.fates());
        made.addAll(step.made());
        return this;
    }

    Timeline.State<S> state() {
        return state;
    }

    List<Step.Fate> fates() {
        return fates;
    }

    List<Step.Made> made() {
        return made;
    }

    /** The values of a field of what was made, in order. */
    List<Object> made(String field) {
        return made.stream().map(one -> one.data().get(field)).toList();
    }
}
