package org.holtra.service.memory;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.holtra.core.memory.Operation;
import org.holtra.core.memory.OperationForms;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JavaType;
import tools.jackson.databind.json.JsonMapper;

/** What is remembered of keys, as JSON. */
@Component
public class States {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(States.class);

    /**
     * What comes of a key when something else is done with it from now on.
     *
     * @param made what was being made of messages that were taken
     * @param generation of what is done from now on
     */
    record Ended(List<Step.Made> made, long generation) {}

    /** What was remembered while the lane did the same; what is new where nothing was. */
    public <S> Timeline.State<S> read(Timeline<S> timeline, RememberedKey row) {
        return row.isNew() ? timeline.empty() : stored(timeline, row);
    }

    private static <S> Timeline.State<S> stored(Timeline<S> timeline, RememberedKey row) {
        JavaType type = JSON.getTypeFactory()
                .constructParametricType(
                        Timeline.State.class, timeline.operation().stateType());
        return JSON.readValue(row.state(), type);
    }

    /** Ends what a lane did with a key before it was changed. */
    Ended end(RememberedKey row) {
        Optional<Operation<?>> before = OperationForms.read(row.operation());
        if (before.isEmpty()) {
            // It made nothing of several messages, or another version did; the balance names what is missing then.
            return new Ended(List.of(), 1);
        }
        try {
            return end(new Timeline<>(before.get(), Duration.ZERO, true), row);
        } catch (JacksonException e) {
            log.error(
                    "What lane {} remembers of {} cannot be read, and what it was making of it is lost",
                    row.lane(),
                    row.key(),
                    e);
            return new Ended(List.of(), 1);
        }
    }

    private static <S> Ended end(Timeline<S> before, RememberedKey row) {
        Timeline.State<S> state = stored(before, row);
        return new Ended(before.end(state).made(), state.generation() + 1);
    }

    String write(Timeline.State<?> state) {
        return JSON.writeValueAsString(state);
    }

    /** What it does, in a form that is another when that is. */
    public static String words(Operation<?> operation) {
        return OperationForms.write(operation);
    }
}
