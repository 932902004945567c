package org.holtra.service.memory;

import org.holtra.core.memory.Operation;
import org.holtra.core.memory.Timeline;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JavaType;
import tools.jackson.databind.json.JsonMapper;

/** What is remembered of keys, as JSON. */
@Component
class States {

    private static final JsonMapper JSON = JsonMapper.shared();

    /** What was remembered while the lane did the same; what is new where it did something else, or nothing. */
    <S> Timeline.State<S> read(Timeline<S> timeline, MemoryMapper.Row row) {
        if (!row.operation().equals(words(timeline.operation()))) {
            return timeline.empty();
        }
        JavaType type = JSON.getTypeFactory()
                .constructParametricType(
                        Timeline.State.class, timeline.operation().stateType());
        return JSON.readValue(row.state(), type);
    }

    String write(Timeline.State<?> state) {
        return JSON.writeValueAsString(state);
    }

    /** What it does, in words that change when that does. */
    static String words(Operation<?> operation) {
        return operation.toString();
    }
}
