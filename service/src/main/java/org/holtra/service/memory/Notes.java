package org.holtra.service.memory;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.holtra.core.memory.Timeline;
import org.holtra.service.journal.RememberedMessages;
import org.holtra.service.reading.Whose;

/** What is to be written of keys once a transaction's work is done: their states, and the messages that have left their memory. */
public final class Notes {

    /**
     * @param making the message that is being made of what was taken; null if none is
     * @param came whether something came to the key
     */
    private record State(
            RememberedKey row,
            String zone,
            String operation,
            String state,
            Instant due,
            UUID making,
            boolean came,
            Whose of) {}

    private final MemoryMapper mapper;
    private final RememberedMessages messages;
    private final States states;
    private final List<State> written = new ArrayList<>();
    private final List<Came> came = new ArrayList<>();
    private final List<RememberedMessages.Place> gone = new ArrayList<>();

    Notes(MemoryMapper mapper, RememberedMessages messages, States states) {
        this.mapper = mapper;
        this.messages = messages;
        this.states = states;
    }

    /** A key that nothing is remembered of but that it is there. */
    public void stateless(RememberedKey row, String operation, boolean came) {
        written.add(new State(
                row, row.zone(), operation, "{}", null, null, came, new Whose(row.device(), row.simulated())));
    }

    /** @param making the message that is being made of what was taken; null if none is */
    public <S> void state(
            RememberedKey row,
            String zone,
            Timeline<S> timeline,
            Timeline.State<S> state,
            Instant due,
            UUID making,
            boolean came,
            Whose of) {
        written.add(
                new State(row, zone, States.words(timeline.operation()), states.write(state), due, making, came, of));
    }

    /** What came to a key; what of it is not let go stays in its memory. */
    void came(List<Came> all) {
        came.addAll(all);
    }

    /** A message is in the memory of a lane or lookout no more. */
    public void letGo(String lane, UUID message) {
        gone.add(new RememberedMessages.Place(lane, message));
    }

    void write(Instant now) {
        messages.letGo(gone);
        Set<RememberedMessages.Place> left = Set.copyOf(gone);
        messages.see(came.stream()
                .map(one -> new RememberedMessages.Place(one.lane(), one.message()))
                .filter(one -> !left.contains(one))
                .toList());
        if (!written.isEmpty()) {
            mapper.write(
                    column(one -> one.row.lane(), String[]::new),
                    column(one -> one.row.key(), String[]::new),
                    column(State::zone, String[]::new),
                    column(State::operation, String[]::new),
                    column(State::state, String[]::new),
                    column(State::due, Instant[]::new),
                    column(State::making, UUID[]::new),
                    column(State::came, Boolean[]::new),
                    column(one -> one.of.device(), String[]::new),
                    column(one -> one.of.simulated(), Boolean[]::new),
                    now);
        }
    }

    private <C> C[] column(Function<State, C> value, IntFunction<C[]> array) {
        return written.stream().map(value).toArray(array);
    }
}
