package org.holtra.service.memory;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.holtra.core.memory.Timeline;
import org.holtra.service.reading.Whose;

/** What is to be written of keys once all of a step is done: their states, and the messages that are in no memory any more. */
final class Notes {

    /**
     * @param making the message that is being made of what was taken; null if none is
     * @param came whether something came to the key
     */
    private record State(
            MemoryMapper.Row row,
            String zone,
            String operation,
            String state,
            Instant due,
            UUID making,
            boolean came,
            Whose of) {}

    /** That a lane has a message in its memory no more. */
    private record Let(String lane, UUID message) {}

    private final MemoryMapper mapper;
    private final States states;
    private final List<State> written = new ArrayList<>();
    private final List<MemoryMapper.Came> came = new ArrayList<>();
    private final List<Let> let = new ArrayList<>();

    Notes(MemoryMapper mapper, States states) {
        this.mapper = mapper;
        this.states = states;
    }

    /** A key that nothing is remembered of but that it is there. */
    void stateless(MemoryMapper.Row row, String operation, boolean came) {
        written.add(new State(
                row, row.zone(), operation, "{}", null, null, came, new Whose(row.device(), row.simulated())));
    }

    /** @param making the message that is being made of what was taken; null if none is */
    <S> void state(
            MemoryMapper.Row row,
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
    void came(List<MemoryMapper.Came> all) {
        came.addAll(all);
    }

    void let(String lane, UUID message) {
        let.add(new Let(lane, message));
    }

    void write(Instant now) {
        if (!let.isEmpty()) {
            mapper.let(
                    let.stream().map(Let::lane).toArray(String[]::new),
                    let.stream().map(Let::message).toArray(UUID[]::new));
        }
        Set<Let> gone = Set.copyOf(let);
        List<MemoryMapper.Came> stay = came.stream()
                .filter(one -> !gone.contains(new Let(one.lane(), one.message())))
                .toList();
        if (!stay.isEmpty()) {
            mapper.see(
                    stay.stream().map(MemoryMapper.Came::lane).toArray(String[]::new),
                    stay.stream().map(MemoryMapper.Came::message).toArray(UUID[]::new));
        }
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
