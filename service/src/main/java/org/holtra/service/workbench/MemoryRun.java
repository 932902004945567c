package org.holtra.service.workbench;

import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Memory;
import org.holtra.core.memory.Split;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Fields;
import org.holtra.core.setup.Lane;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.LaneMade;
import org.holtra.service.reading.Whose;

/**
 * A lane's memory run over messages of the past, in the order they came. What it makes is told and not kept. Not for use by
 * several threads.
 */
final class MemoryRun {

    /** What is told. Each message has one fate, but for what splits. */
    interface Listener {

        default void took(String key, Input input) {}

        /** @param into what it is part of, which may be made later; null if it is part of nothing */
        default void fate(String key, Step.Fate fate, MessageId into) {}

        /** @param message as the journal would keep it */
        void made(String key, StoredMessage message, Map<String, Object> fields);
    }

    private final Lane lane;
    private final int setupRevision;
    private final Listener listener;
    private final Map<String, Keyed<?>> keys = new HashMap<>();

    MemoryRun(Lane lane, int setupRevision, Listener listener) {
        this.lane = lane;
        this.setupRevision = setupRevision;
        this.listener = listener;
    }

    /** The next message that the lane takes. Gives the key it comes to. */
    String take(StoredMessage message, Scope scope) {
        Memory memory = lane.memory();
        String key = memory.keyOf(scope);
        Input input =
                Input.of(message.id().value(), message.id().received(), message.eventTime(), Fields.flat(scope.data()));
        listener.took(key, input);
        LaneMade made = new LaneMade(lane.name(), key, new Whose(message.device(), message.simulated()), setupRevision);
        if (memory.split() != null) {
            split(made, message, memory.split().of(scope, message.eventTime()));
        } else {
            keys.computeIfAbsent(key, fresh -> new Keyed<>(memory.timeline(memory.zoneOf(scope))))
                    .take(made, input);
        }
        return key;
    }

    private void split(LaneMade made, StoredMessage message, Split.Items items) {
        if (items.whyNot() != null) {
            listener.fate(made.key(), new Step.Fate.HeldBack(message.id().value(), items.whyNot()), null);
            return;
        }
        int number = 0;
        for (Split.Item item : items.items()) {
            number++;
            listener.made(
                    made.key(),
                    made.item(message.id(), item, number, items.items().size()),
                    Fields.flat(item.data()));
        }
    }

    /** Time goes by, and nothing more comes. */
    void until(Instant now) {
        keys.values().forEach(keyed -> keyed.advance(List.of(), now));
    }

    /** When something of a key is to be done if nothing more comes. */
    Optional<Instant> due(String key) {
        return Optional.ofNullable(keys.get(key)).flatMap(Keyed::due);
    }

    private final class Keyed<S> {

        private final Timeline<S> timeline;
        private Timeline.State<S> state;
        private LaneMade made;

        Keyed(Timeline<S> timeline) {
            this.timeline = timeline;
            this.state = timeline.empty();
        }

        void take(LaneMade its, Input input) {
            made = its;
            advance(List.of(input), input.received());
        }

        void advance(List<Input> came, Instant now) {
            Step<Timeline.State<S>> step = timeline.advance(state, came, now);
            state = step.state();
            step.fates().forEach(fate -> listener.fate(made.key(), fate, into(fate)));
            step.made().forEach(one -> listener.made(made.key(), made.message(one), one.data()));
        }

        private MessageId into(Step.Fate fate) {
            return fate instanceof Step.Fate.Merged(UUID message, Step.Name name) ? made.id(name) : null;
        }

        Optional<Instant> due() {
            return timeline.due(state);
        }
    }
}
