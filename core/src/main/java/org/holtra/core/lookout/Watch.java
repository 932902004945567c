package org.holtra.core.lookout;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Operation;
import org.holtra.core.memory.Step;

/**
 * Raises an alarm when a sign has been there for so long, and clears it when the sign is gone: one at a time. Each makes a
 * message, and neither says anything of the messages it looked at, which go their own way.
 *
 * @param hold for how long the sign must have been there, told by messages at its beginning and its end; may be zero
 * @param quiet for how long after an alarm was cleared none is raised; may be zero
 */
public record Watch(Sign sign, Duration hold, Duration quiet) implements Operation<Watch.State> {

    /** The field of an {@link Input} that is watched. */
    public static final String VALUE = "value";

    /** What a message of it says: {@code raised} or {@code cleared}. */
    public static final String STATE = "state";

    /** What alarms may tell, by the names of their fields. */
    public static final Set<String> ALARM_FIELDS = Set.of(
            "alarm",
            "id",
            "name",
            "device",
            "point",
            "state",
            "text",
            "since",
            "at",
            "value",
            "extreme",
            "extremeAt",
            "cause",
            "node");

    public static final String RAISED = "raised";
    public static final String CLEARED = "cleared";

    private static final Duration KEPT = Duration.ofDays(90);

    /**
     * @param decided the event time of the newest message
     * @param began when the sign came; null if it is not there
     * @param cause the message that showed it first
     * @param extreme the measure that lay furthest beyond since then
     * @param open whether an alarm is raised
     * @param cleared when the last one was
     */
    public record State(
            Instant decided,
            Sign.Seen seen,
            Instant began,
            UUID cause,
            Double extreme,
            Instant extremeAt,
            boolean open,
            Instant cleared) {

        private State seeing(Sign.Seen next, Instant at) {
            return new State(at, next, began, cause, extreme, extremeAt, open, cleared);
        }

        private State without() {
            return new State(decided, seen, null, null, null, null, false, cleared);
        }
    }

    @Override
    public State empty() {
        return new State(Instant.MIN, Sign.Seen.NOTHING, null, null, null, null, false, null);
    }

    @Override
    public Class<State> stateType() {
        return State.class;
    }

    @Override
    public Instant decided(State state) {
        return sign.takesLate() ? Instant.MIN : state.decided;
    }

    @Override
    public Step<State> take(State state, Input input) {
        Sign.Seen seen = sign.after(state.seen, input);
        State next = state.seeing(seen, input.at());
        return sign.find(seen, input).map(found -> weigh(next, found, input)).orElseGet(() -> Step.of(next));
    }

    private Step<State> weigh(State state, Sign.Found found, Input input) {
        if (found.shows() == Sign.Shows.OFF) {
            return state.open ? clear(state, found, input) : Step.of(state.without());
        }
        if (found.shows() == Sign.Shows.BETWEEN && !state.open) {
            return Step.of(state.without());
        }
        State there = there(state, found, input);
        return state.open || !lasts(there, input.at()) ? Step.of(there) : raise(there, found, input);
    }

    private State there(State state, Sign.Found found, Input input) {
        boolean begins = state.began == null;
        boolean further =
                begins || found.measure() != null && sign.further(state.extreme, found.measure()) != state.extreme;
        return new State(
                state.decided,
                state.seen,
                begins ? input.at() : state.began,
                begins ? input.message() : state.cause,
                further ? found.measure() : state.extreme,
                further ? input.at() : state.extremeAt,
                state.open,
                state.cleared);
    }

    private boolean lasts(State state, Instant at) {
        return !at.isBefore(state.began.plus(hold))
                && (state.cleared == null || !at.isBefore(state.cleared.plus(quiet)));
    }

    private Step<State> raise(State state, Sign.Found found, Input input) {
        return Step.of(opened(state, true, state.cleared), made(state, RAISED, input.at(), input.received(), found));
    }

    private Step<State> clear(State state, Sign.Found found, Input input) {
        return Step.of(
                opened(state, false, input.at()).without(), made(state, CLEARED, input.at(), input.received(), found));
    }

    private static State opened(State state, boolean open, Instant cleared) {
        return new State(
                state.decided, state.seen, state.began, state.cause, state.extreme, state.extremeAt, open, cleared);
    }

    private static Step.Made made(State state, String what, Instant at, Instant stamp, Sign.Found found) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put(STATE, what);
        data.put("text", found.words());
        data.put("since", state.began.toString());
        data.put("at", at.toString());
        if (found.measure() != null) {
            data.put(VALUE, found.measure());
        }
        if (state.extreme != null) {
            data.put("extreme", state.extreme);
            data.put("extremeAt", state.extremeAt.toString());
        }
        if (state.cause != null) {
            data.put("cause", state.cause.toString());
        }
        return new Step.Made(new Step.Name(what + " " + state.began, stamp), at, data, null, List.of());
    }

    @Override
    public Optional<Instant> due(State state) {
        return state.open
                ? Optional.empty()
                : sign.due(state.seen)
                        .map(at -> state.cleared == null || !at.isBefore(state.cleared.plus(quiet))
                                ? at
                                : state.cleared.plus(quiet));
    }

    /** It has been silent for long enough. */
    @Override
    public Step<State> wake(State state, Instant due) {
        if (!(sign instanceof Silence silence)) {
            return Step.of(state);
        }
        State there = new State(state.decided, state.seen, state.seen.heard(), null, null, null, true, state.cleared);
        return Step.of(there, made(there, RAISED, due, due, silence.there(state.seen)));
    }

    /** An alarm is raised, and nothing else is remembered: the lookout has changed since. */
    public State resumed(Instant since, UUID cause, Double extreme, Instant extremeAt) {
        return new State(Instant.MIN, Sign.Seen.NOTHING, since, cause, extreme, extremeAt, true, null);
    }

    /** Nobody listened until then: a silence is counted from there. */
    public State excused(State state, Instant until) {
        return sign instanceof Silence silence && !state.open
                ? state.seeing(silence.excused(state.seen, until), state.decided)
                : state;
    }

    @Override
    public Map<String, Object> form() {
        return Map.of(
                "operation", "watch",
                "version", 1,
                "sign", sign.form(),
                "hold", hold.toString(),
                "quiet", quiet.toString());
    }

    @Override
    public Duration kept() {
        return KEPT;
    }
}
