package org.holtra.service.workbench;

import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Step;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.picking.Picker;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** Holds two lanes against each other, message by message. One rehearsal's own; not for use by several threads, but for reading. */
final class Rehearser {

    /** As many examples of each type of difference are kept. */
    private static final int EXAMPLES = 5;

    private enum Difference {
        UNREADABLE,
        TOOK,
        TAKES,
        GAINED,
        LOST,
        CHANGED,
        SAME,
        FAILING,
        MADE,
        PASSED,
        LATE,
        HELD_BACK,
        MERGED
    }

    private record Version(String key, int revision) {}

    private final Lane live;
    private final Lane changed;
    private final Setup setup;
    private final Readings readings;
    private final DeviceRegistry devices;
    private final Introductions introductions;
    private final boolean factsThen;
    private final Map<Version, Optional<Device>> versions = new HashMap<>();
    private final Map<Difference, Long> counts = new EnumMap<>(Difference.class);
    private final List<Rehearsal.Example> examples = new ArrayList<>();
    /** Null if the changed lane has no memory. */
    private final MemoryRun memory;

    private final Map<UUID, StoredMessage> remembered = new HashMap<>();
    /** How many are part of what is not made yet. */
    private final Map<MessageId, Long> parts = new HashMap<>();

    private long looked;

    /** @param live null if there is none of the changed lane's name */
    Rehearser(Lane live, Lane changed, Setup setup, Sources sources, boolean factsThen) {
        this.live = live;
        this.changed = changed;
        this.setup = setup;
        this.readings = sources.readings().forHistory();
        this.devices = sources.devices();
        this.introductions = sources.introductions();
        this.factsThen = factsThen;
        this.memory = changed.memory() == null ? null : new MemoryRun(changed, setup.revision(), new Made());
    }

    /** What messages are read with. */
    @Component
    record Sources(Readings readings, DeviceRegistry devices, Introductions introductions) {}

    /** Reads a message as it would be read today; null if it cannot be. May be called by several threads. */
    Message read(StoredMessage stored) {
        try {
            return readings.again(stored, setup);
        } catch (UnreadableContent e) {
            return null; // counted as unreadable when it is looked at
        }
    }

    /** @param message as it was read; null if it cannot be */
    void look(StoredMessage stored, Message message) {
        looked++;
        if (message == null) {
            count(Difference.UNREADABLE);
            return;
        }
        Device device = device(stored);
        Model model = Readings.model(device, setup);
        Scope scope = readings.scope(message, device, setup);
        Set<String> took = live == null ? new HashSet<>() : took(stored, scope, model);
        Set<String> takes = points(changed, stored, scope, model);
        if (memory != null && !takes.isEmpty()) {
            if (changed.memory().split() == null) {
                remembered.put(stored.id().value(), stored);
            }
            memory.take(stored, scope);
        }
        boolean alone = memory == null && (live == null || live.memory() == null);
        for (String point : takes) {
            count(Difference.TAKES);
            Content now = memory != null ? null : fill(changed, scope, model, point, stored);
            if (!took.contains(point)) {
                count(Difference.GAINED);
                example("gained", stored, point, live == null ? null : Picker.whyNot(live, scope, model), List.of());
            } else if (now != null && alone) {
                compare(stored, scope, model, point, now);
            }
        }
        for (String point : took) {
            count(Difference.TOOK);
            if (!takes.contains(point)) {
                count(Difference.LOST);
                example("lost", stored, point, whyNot(stored, scope, model), List.of());
            }
        }
    }

    /** Time goes by up to the end, for what is remembered. */
    void end(Instant to) {
        if (memory != null) {
            memory.until(to);
        }
    }

    /** What the changed lane makes of several messages. */
    private final class Made implements MemoryRun.Listener {

        @Override
        public void fate(String key, Step.Fate fate, MessageId into) {
            StoredMessage stored = remembered.remove(fate.message());
            switch (fate) {
                case Step.Fate.Passed passed -> {
                    count(Difference.PASSED);
                    if (passed.late()) {
                        count(Difference.LATE);
                    }
                    sent(stored);
                }
                case Step.Fate.HeldBack heldBack -> count(Difference.HELD_BACK);
                case Step.Fate.Merged merged -> parts.merge(into, 1L, Long::sum);
            }
        }

        @Override
        public void made(String key, StoredMessage message, Map<String, Object> fields) {
            count(Difference.MADE);
            counts.merge(Difference.MERGED, parts.getOrDefault(message.id(), 0L), Long::sum);
            parts.remove(message.id());
            sent(message);
        }

        private void sent(StoredMessage stored) {
            Message message = read(stored);
            if (message == null) {
                return; // counted as unreadable when it came
            }
            Device device = device(stored);
            Model model = Readings.model(device, setup);
            Scope scope = readings.scope(message, device, setup);
            Content now = fill(changed, scope, model, null, stored);
            if (now != null && isSameMemory()) {
                compare(stored, scope, model, null, now);
            }
        }
    }

    private boolean isSameMemory() {
        return live != null && live.memory() != null && live.memory().doesAs(changed.memory());
    }

    private String whyNot(StoredMessage stored, Scope scope, Model model) {
        return changed.inlets().contains(stored.arrival().inlet())
                ? Picker.whyNot(changed, scope, model)
                : "it does not look at inlet `" + stored.arrival().inlet() + "`";
    }

    /** What the active lane really took; which points, if it goes by points, is worked out anew. */
    private Set<String> took(StoredMessage stored, Scope scope, Model model) {
        if (!stored.lanes().contains(live.name())) {
            return new HashSet<>();
        }
        if (!live.perPoint()) {
            Set<String> whole = new HashSet<>();
            whole.add(null);
            return whole;
        }
        return points(live, stored, scope, model);
    }

    private static Set<String> points(Lane lane, StoredMessage stored, Scope scope, Model model) {
        Set<String> points = new HashSet<>();
        if (lane.inlets().contains(stored.arrival().inlet())) {
            Picker.takes(lane, scope, model).forEach(take -> points.add(take.point()));
        }
        return points;
    }

    private Content fill(Lane lane, Scope scope, Model model, String point, StoredMessage stored) {
        try {
            return lane.shape().fill(introductions.seen(Points.scope(scope, model, point), lane.outlet()));
        } catch (ShapeFailure e) {
            if (lane == changed) {
                count(Difference.FAILING);
                example("failing", stored, point, e.getMessage(), List.of());
            }
            return null;
        }
    }

    private void compare(StoredMessage stored, Scope scope, Model model, String point, Content now) {
        Content was = fill(live, scope, model, point, stored);
        boolean outlet = live.outlet().equals(changed.outlet());
        if (was != null && outlet && Differences.same(was, now)) {
            count(Difference.SAME);
            return;
        }
        count(Difference.CHANGED);
        if (few("changed")) {
            List<Differences.Difference> found = new ArrayList<>();
            if (!outlet) {
                found.add(new Differences.Difference("outlet", live.outlet(), changed.outlet()));
            }
            if (was != null) {
                found.addAll(Differences.between(was, now));
            }
            example(
                    "changed",
                    stored,
                    point,
                    was == null ? "the active lane could not shape it" : null,
                    List.copyOf(found));
        }
    }

    private Device device(StoredMessage stored) {
        if (stored.device() == null) {
            return null;
        }
        if (!factsThen || stored.deviceRevision() == null) {
            return devices.find(stored.device()).orElse(null);
        }
        return versions.computeIfAbsent(
                        new Version(stored.device(), stored.deviceRevision()),
                        version -> devices.at(version.key, version.revision))
                .orElse(null);
    }

    private void count(Difference type) {
        counts.merge(type, 1L, Long::sum);
    }

    private boolean few(String type) {
        return examples.stream().filter(one -> one.type().equals(type)).count() < EXAMPLES;
    }

    private void example(
            String type, StoredMessage stored, String point, String why, List<Differences.Difference> differences) {
        if (few(type)) {
            examples.add(new Rehearsal.Example(
                    type, Objects.toString(stored.id()), stored.device(), point, why, differences));
        }
    }

    Rehearsal.Counts counts() {
        return new Rehearsal.Counts(
                looked,
                of(Difference.UNREADABLE),
                of(Difference.TOOK),
                of(Difference.TAKES),
                of(Difference.GAINED),
                of(Difference.LOST),
                of(Difference.CHANGED),
                of(Difference.SAME),
                of(Difference.FAILING));
    }

    /** Whether the active lane has a memory. */
    boolean rememberedBefore() {
        return live != null && live.memory() != null;
    }

    /** @param madeThen what the active lane made; null if it has no memory */
    Rehearsal.Remembering remembering(Long madeThen) {
        return memory == null
                ? null
                : new Rehearsal.Remembering(
                        isSameMemory(),
                        of(Difference.MADE),
                        of(Difference.PASSED),
                        of(Difference.LATE),
                        of(Difference.HELD_BACK),
                        of(Difference.MERGED),
                        remembered.size()
                                + parts.values().stream()
                                        .mapToLong(Long::longValue)
                                        .sum(),
                        madeThen);
    }

    List<Rehearsal.Example> examples() {
        return List.copyOf(examples);
    }

    private long of(Difference type) {
        return counts.getOrDefault(type, 0L);
    }
}
