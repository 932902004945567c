package org.holtra.service.memory;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Split;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.RememberedMessages;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.LaneMade;
import org.holtra.service.reading.Whose;

/** Brings messages to the timelines of lanes, and writes what comes of it together at the end. */
final class LaneStep implements TimelineStep {

    /** What is stored of a lane that splits, and remembers nothing. */
    private static final String SPLIT = "split";

    private final Setup setup;
    private final States states;
    private final Notes notes;
    private final LaneTimelines.Store store;
    private final List<Delivery.Owed> owed = new ArrayList<>();
    private final List<Delivery.Owed> dead = new ArrayList<>();
    private final List<StoredMessage> made = new ArrayList<>();
    private final List<RememberedMessages.Settled> settled = new ArrayList<>();

    LaneStep(Setup setup, States states, Notes notes, LaneTimelines.Store store) {
        this.setup = setup;
        this.states = states;
        this.notes = notes;
        this.store = store;
    }

    @Override
    public List<Delivery.Owed> owed() {
        return owed;
    }

    @Override
    public void take(RememberedKey row, List<Came> came, Map<UUID, StoredMessage> messages, Instant now)
            throws CodecUnavailable {
        Lane lane = setup.lanes().get(row.lane());
        if (lane.memory().split() != null) {
            if (!row.isNew() && !row.operation().equals(SPLIT)) {
                end(lane, row);
            }
            Map<UUID, Split.Items> items = items(lane, came, messages);
            came.forEach(one ->
                    split(lane, row.key(), messages.get(one.message()), one.message(), items.get(one.message())));
            notes.stateless(row, SPLIT, !came.isEmpty());
            return;
        }
        String zone = came.isEmpty() ? row.zone() : came.getLast().zone();
        advance(lane, row, zone, lane.memory().timeline(ZoneId.of(zone)), came, messages, now);
    }

    private <S> void advance(
            Lane lane,
            RememberedKey row,
            String zone,
            Timeline<S> timeline,
            List<Came> came,
            Map<UUID, StoredMessage> messages,
            Instant now)
            throws CodecUnavailable {
        List<Input> inputs = inputs(lane, came, messages);
        boolean changed = !row.isNew() && !row.operation().equals(States.words(timeline.operation()));
        Timeline.State<S> before = changed ? timeline.empty(end(lane, row)) : states.read(timeline, row);
        Whose of = came.stream()
                .map(one -> messages.get(one.message()))
                .filter(Objects::nonNull)
                .reduce((a, b) -> b)
                .map(stored -> new Whose(stored.device(), stored.simulated()))
                .orElseGet(() -> new Whose(row.device(), row.simulated()));
        LaneMade its = new LaneMade(lane.name(), row.key(), of, setup.revision());
        Step<Timeline.State<S>> step = timeline.advance(before, inputs, now);
        for (Step.Fate fate : step.fates()) {
            notes.letGo(lane.name(), fate.message());
            MessageId message = new MessageId(fate.message());
            switch (fate) {
                case Step.Fate.Passed passed ->
                    Optional.ofNullable(messages.get(passed.message()))
                            .or(() -> store.journal().find(message))
                            .ifPresent(stored -> pass(lane, stored, passed.late()));
                case Step.Fate.HeldBack(UUID id, String reason) ->
                    settle(message, lane.name(), "held back", reason, null);
                case Step.Fate.Merged(UUID id, Step.Name into) -> {
                    MessageId part = its.id(into);
                    settle(message, lane.name(), "merged", "part of " + part, part);
                }
            }
        }
        for (Step.Made one : step.made()) {
            make(lane, its, one);
        }
        notes.state(
                row,
                zone,
                timeline,
                step.state(),
                timeline.due(step.state()).orElse(null),
                timeline.making(step.state()).map(name -> its.id(name).value()).orElse(null),
                !came.isEmpty(),
                of);
    }

    /**
     * Something else is done with a key from now on: what was being made of messages that were taken is made as it is, so
     * that none of them is lost.
     *
     * @param lane null if it is no longer there, and then what is made is dropped
     * @return the generation of what is done from now on
     */
    private long end(Lane lane, RememberedKey row) {
        States.Ended ended = states.end(row);
        LaneMade its = new LaneMade(row.lane(), row.key(), new Whose(row.device(), row.simulated()), setup.revision());
        ended.made().forEach(one -> make(lane, its, one));
        return ended.generation();
    }

    /** What each of these messages is split into. */
    private Map<UUID, Split.Items> items(Lane lane, List<Came> came, Map<UUID, StoredMessage> messages)
            throws CodecUnavailable {
        Map<UUID, Split.Items> items = new HashMap<>();
        for (Came one : came) {
            StoredMessage stored = messages.get(one.message());
            if (stored == null) {
                continue;
            }
            try {
                Scope scope = store.readings().scope(stored, setup, null);
                items.put(one.message(), lane.memory().split().of(scope, stored.eventTime()));
            } catch (CodecUnavailable e) {
                throw e;
            } catch (UnreadableContent e) {
                items.put(one.message(), Split.Items.none("it cannot be read any more: " + e.getMessage()));
            }
        }
        return items;
    }

    /** Each item goes as a message of its own, and the one that held them goes no further. */
    private void split(Lane lane, String key, StoredMessage stored, UUID message, Split.Items items) {
        MessageId id = new MessageId(message);
        notes.letGo(lane.name(), message);
        if (stored == null) {
            return;
        }
        if (items.whyNot() != null) {
            settle(id, lane.name(), "held back", items.whyNot(), null);
            return;
        }
        LaneMade its = new LaneMade(lane.name(), key, new Whose(stored.device(), stored.simulated()), setup.revision());
        int number = 0;
        for (Split.Item item : items.items()) {
            number++;
            StoredMessage one = its.item(id, item, number, items.items().size());
            made.add(one);
            owe(lane, one.id(), stored.device(), Delivery.Part.WHOLE);
        }
        settle(id, lane.name(), "split", "into " + number + (number == 1 ? " message" : " messages"), null);
    }

    /**
     * What cannot be read any more is held back, and says so.
     *
     * @throws CodecUnavailable if something cannot be read now; then nothing has been noted of the key
     */
    private List<Input> inputs(Lane lane, List<Came> came, Map<UUID, StoredMessage> messages) throws CodecUnavailable {
        List<Input> inputs = new ArrayList<>();
        Map<UUID, String> unreadable = new LinkedHashMap<>();
        for (Came one : came) {
            StoredMessage stored = messages.get(one.message());
            if (stored == null) {
                unreadable.put(one.message(), null);
                continue;
            }
            try {
                Map<String, Object> fields =
                        Fields.flat(store.readings().again(stored, setup).data());
                inputs.add(Input.of(one.message(), stored.id().received(), stored.eventTime(), fields));
            } catch (CodecUnavailable e) {
                throw e;
            } catch (UnreadableContent e) {
                unreadable.put(one.message(), e.getMessage());
            }
        }
        unreadable.forEach((message, why) -> {
            notes.letGo(lane.name(), message);
            if (why != null) {
                settle(new MessageId(message), lane.name(), "held back", "it cannot be read any more: " + why, null);
            }
        });
        return inputs;
    }

    private void pass(Lane lane, StoredMessage stored, boolean late) {
        owe(lane, stored.id(), stored.device(), late ? Delivery.Part.LATE : Delivery.Part.WHOLE);
    }

    private void owe(Lane lane, MessageId message, String device, Delivery.Part part) {
        owed.add(delivery(lane, message, device, part.late() ? "it came late" : null, part));
    }

    private Delivery.Owed delivery(Lane lane, MessageId message, String device, String reason, Delivery.Part part) {
        return new Delivery.Owed(
                UUID.nameUUIDFromBytes((message + " " + lane.name()).getBytes(StandardCharsets.UTF_8)),
                message,
                lane.name(),
                lane.outlet(),
                device,
                0,
                store.clock().instant(),
                null,
                null,
                reason,
                part,
                lane.ordered() ? device : null);
    }

    private void make(Lane lane, LaneMade its, Step.Made one) {
        StoredMessage message = its.message(one);
        made.add(message);
        if (lane == null) {
            settle(message.id(), its.lane(), "dropped", "its lane was removed while it was being made", null);
        } else if (one.missing().isEmpty()) {
            owe(lane, message.id(), message.device(), Delivery.Part.WHOLE);
        } else {
            dead.add(delivery(
                    lane,
                    message.id(),
                    message.device(),
                    "it is not whole, and the lane lets only whole ones go; missing: "
                            + String.join(", ", one.missing()),
                    Delivery.Part.WHOLE));
        }
    }

    private void settle(MessageId message, String lane, String fate, String reason, MessageId into) {
        settled.add(new RememberedMessages.Settled(message, lane, fate, reason, into));
    }

    @Override
    public void write() {
        if (!made.isEmpty()) {
            dropKnown();
        }
        store.journal().make(made, owed, dead, "incomplete");
        store.remembered().settle(settled, store.clock().instant());
    }

    @Override
    public void end(RememberedKey row) {
        end(setup.lanes().get(row.lane()), row);
    }

    @Override
    public void release(String name, MessageId message) {
        Lane lane = setup.lanes().get(name);
        if (lane == null) {
            settle(message, name, "dropped", "its lane was removed while it was in its memory", null);
        } else {
            store.journal().find(message).ifPresent(stored -> pass(lane, stored, false));
        }
    }

    /** What a lane made before, it does not make again. */
    private void dropKnown() {
        Set<UUID> known =
                store.journal().existing(made.stream().map(StoredMessage::id).toList());
        made.removeIf(one -> known.contains(one.id().value()));
        owed.removeIf(one -> known.contains(one.message().value()));
        dead.removeIf(one -> known.contains(one.message().value()));
    }
}
