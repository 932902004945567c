package org.holtra.service.memory;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.holtra.core.memory.Unfold;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.StoredMessage;
import tools.jackson.databind.json.JsonMapper;

/** What comes of bringing messages to the timelines of their keys, to be written down together at the end. */
final class Harvest {

    private static final JsonMapper JSON = JsonMapper.shared();

    private final Setup setup;
    private final MemoryMapper mapper;
    private final States states;
    private final Notes notes;
    private final Memories.Store store;
    private final Set<String> outlets = new TreeSet<>();
    private final List<Delivery.Owed> owed = new ArrayList<>();
    private final List<Delivery.Owed> dead = new ArrayList<>();
    private final List<StoredMessage> made = new ArrayList<>();
    private final List<Settled> settled = new ArrayList<>();

    private record Settled(MessageId message, String lane, String fate, String reason, MessageId into) {}

    Harvest(Setup setup, MemoryMapper mapper, States states, Notes notes, Memories.Store store) {
        this.setup = setup;
        this.mapper = mapper;
        this.states = states;
        this.notes = notes;
        this.store = store;
    }

    /** The outlets that have something to do. */
    Set<String> outlets() {
        return outlets;
    }

    /** @param messages those that came, as the journal has them */
    void take(MemoryMapper.Row row, List<MemoryMapper.Came> came, Map<UUID, StoredMessage> messages, Instant now) {
        Lane lane = setup.lanes().get(row.lane());
        if (lane.memory().unfold() != null) {
            came.forEach(one -> unfold(lane, row.key(), one.message(), messages.get(one.message())));
            notes.stateless(row, "unfold", !came.isEmpty());
            return;
        }
        String zone = came.isEmpty() ? row.zone() : came.getLast().zone();
        advance(lane, row, zone, lane.memory().timeline(ZoneId.of(zone)), came, messages, now);
    }

    private <S> void advance(
            Lane lane,
            MemoryMapper.Row row,
            String zone,
            Timeline<S> timeline,
            List<MemoryMapper.Came> came,
            Map<UUID, StoredMessage> messages,
            Instant now) {
        List<Input> inputs = new ArrayList<>();
        for (MemoryMapper.Came one : came) {
            input(lane, one.message(), messages.get(one.message())).ifPresent(inputs::add);
        }
        Notes.Of of = came.stream()
                .map(one -> messages.get(one.message()))
                .filter(Objects::nonNull)
                .reduce((a, b) -> b)
                .map(stored -> new Notes.Of(stored.device(), stored.simulated()))
                .orElseGet(() -> new Notes.Of(row.device(), row.simulated()));
        Step<Timeline.State<S>> step = timeline.advance(states.read(timeline, row), inputs, now);
        for (Step.Fate fate : step.fates()) {
            notes.let(lane.name(), fate.message());
            MessageId message = new MessageId(fate.message());
            switch (fate) {
                case Step.Fate.Passed passed ->
                    Optional.ofNullable(messages.get(passed.message()))
                            .or(() -> store.journal().find(message))
                            .ifPresent(stored -> pass(lane, stored, passed.late()));
                case Step.Fate.HeldBack(UUID id, String reason) ->
                    settle(message, lane.name(), "held back", reason, null);
                case Step.Fate.Merged(UUID id, Step.Name into) -> {
                    MessageId part = idOf(lane, row.key(), into);
                    settle(message, lane.name(), "merged", "part of " + part, part);
                }
            }
        }
        for (Step.Made one : step.made()) {
            make(lane, row.key(), one, of);
        }
        notes.state(
                row, zone, timeline, step.state(), timeline.due(step.state()).orElse(null), !came.isEmpty(), of);
    }

    /** Each item goes as a message of its own, and the one that held them goes no further. */
    private void unfold(Lane lane, String key, UUID message, StoredMessage stored) {
        MessageId id = new MessageId(message);
        notes.let(lane.name(), message);
        if (stored == null) {
            return;
        }
        Unfold.Items items;
        try {
            items = lane.memory().unfold().of(store.scope(stored, setup, null), stored.eventTime());
        } catch (UnreadableContent e) {
            settle(id, lane.name(), "held back", "it cannot be read any more: " + e.getMessage(), null);
            return;
        }
        if (items.whyNot() != null) {
            settle(id, lane.name(), "held back", items.whyNot(), null);
            return;
        }
        int number = 0;
        for (Unfold.Item item : items.items()) {
            number++;
            MessageId of = MessageId.derived(id.received(), List.of(lane.name(), id.toString(), "" + number));
            made.add(message(
                    lane,
                    key,
                    of,
                    JSON.writeValueAsBytes(item.data()),
                    "item " + number + " of " + items.items().size() + " of a message",
                    item.at(),
                    new Notes.Of(stored.device(), stored.simulated()),
                    id.value()));
            owe(lane, of, stored.device(), Delivery.Part.WHOLE);
        }
        settle(id, lane.name(), "unfolded", "into " + number + (number == 1 ? " message" : " messages"), null);
    }

    /** @param parent null if it is made of several */
    private StoredMessage message(
            Lane lane, String key, MessageId id, byte[] body, String note, Instant at, Notes.Of of, UUID parent) {
        Arrival arrival = new Arrival(
                id, Setup.OWN_INLET, "", "/lanes/" + lane.name(), Map.of("holtra-key", key), "application/json", body);
        return new StoredMessage(
                arrival,
                StoredMessage.MADE,
                note,
                of.device(),
                null,
                at,
                "reading",
                of.simulated(),
                setup.revision(),
                List.of(lane.name()),
                null,
                null,
                parent);
    }

    /** The id of what a lane makes, which is the same whenever and wherever it is made. */
    private static MessageId idOf(Lane lane, String key, Step.Name name) {
        return MessageId.derived(name.stamp(), List.of(lane.name(), key, name.text()));
    }

    /** What cannot be read any more is held back, and says so. */
    private Optional<Input> input(Lane lane, UUID id, StoredMessage stored) {
        if (stored == null) {
            notes.let(lane.name(), id);
            return Optional.empty();
        }
        try {
            Map<String, Object> fields =
                    Fields.flat(store.readings().again(stored, setup).data());
            return Optional.of(new Input(id, stored.id().received(), stored.eventTime(), fields));
        } catch (UnreadableContent e) {
            notes.let(lane.name(), id);
            settle(stored.id(), lane.name(), "held back", "it cannot be read any more: " + e.getMessage(), null);
            return Optional.empty();
        }
    }

    void pass(Lane lane, StoredMessage stored, boolean late) {
        owe(lane, stored.id(), stored.device(), late ? Delivery.Part.LATE : Delivery.Part.WHOLE);
    }

    private void owe(Lane lane, MessageId message, String device, Delivery.Part part) {
        owed.add(delivery(lane, message, device, part.late() ? "it came late" : null, part));
        outlets.add(lane.outlet());
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

    private void make(Lane lane, String key, Step.Made one, Notes.Of of) {
        MessageId id = idOf(lane, key, one.name());
        byte[] body = JSON.writeValueAsBytes(Fields.nested(one.data()));
        made.add(message(lane, key, id, body, one.note(), one.at(), of, null));
        if (one.missing().isEmpty()) {
            owe(lane, id, of.device(), Delivery.Part.WHOLE);
        } else {
            dead.add(delivery(
                    lane,
                    id,
                    of.device(),
                    "it is not whole, and the lane lets only whole ones go; missing: "
                            + String.join(", ", one.missing()),
                    Delivery.Part.WHOLE));
        }
    }

    void settle(MessageId message, String lane, String fate, String reason, MessageId into) {
        settled.add(new Settled(message, lane, fate, reason, into));
    }

    void write() {
        if (!made.isEmpty()) {
            dropKnown();
        }
        store.journal().make(made, owed, dead, "incomplete");
        if (!settled.isEmpty()) {
            mapper.settle(
                    settled.stream().map(one -> one.message.value()).toArray(UUID[]::new),
                    settled.stream().map(one -> one.message.received()).toArray(Instant[]::new),
                    settled.stream().map(Settled::lane).toArray(String[]::new),
                    settled.stream().map(Settled::fate).toArray(String[]::new),
                    settled.stream().map(Settled::reason).toArray(String[]::new),
                    settled.stream()
                            .map(one -> one.into == null ? null : one.into.value())
                            .toArray(UUID[]::new),
                    store.clock().instant());
        }
    }

    /** What a lane made before, it does not make again. */
    private void dropKnown() {
        Set<UUID> known = Set.copyOf(mapper.there(
                made.stream().map(one -> one.id().value()).toArray(UUID[]::new),
                made.stream().map(one -> one.id().received()).toArray(Instant[]::new)));
        made.removeIf(one -> known.contains(one.id().value()));
        owed.removeIf(one -> known.contains(one.message().value()));
        dead.removeIf(one -> known.contains(one.message().value()));
    }
}
