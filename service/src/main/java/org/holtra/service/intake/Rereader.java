package org.holtra.service.intake;

import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Origin;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.ArrivalParts;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.history.LaneState;
import org.holtra.service.history.Records;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Reads stored messages again, by the setup and the registry of today, and owes what comes of that. */
@Component
public class Rereader {

    private static final Logger log = LoggerFactory.getLogger(Rereader.class);

    /** What is wanted of messages that are read again. */
    public interface Aim {

        /** Whether what could not be read before is kept as it is read now. */
        default boolean reads() {
            return true;
        }

        /** Whether a lane gets a message that it did not take when it came. */
        default boolean takes(StoredMessage before, Lane lane) {
            return true;
        }

        /** Whether a lane delivers again what it has delivered, under a key of its own. */
        boolean corrects(StoredMessage before, Lane lane, Now now);
    }

    /** A message as it is read now. */
    public record Now(Message message, List<LaneState> deliveries) {}

    /**
     * What came of reading a message again.
     *
     * @param still whether it can still not be read
     * @param readNow whether it could not be read before, and is now
     * @param taken the lanes that get it now and did not before, once for each of its points
     * @param corrected the lanes that deliver it again, once for each of its points
     */
    public record Again(
            StoredMessage before, boolean still, boolean readNow, List<String> taken, List<String> corrected) {}

    private final Setups setups;
    private final Intake.Steps steps;
    private final Keeping keeping;
    private final Dispatcher dispatcher;
    private final MessageIds ids;
    private final Intake intake;

    /** Where messages are kept. */
    @Component
    record Keeping(Records records, Journal journal, InstantSource clock) {}

    Rereader(Setups setups, Intake.Steps steps, Keeping keeping, Dispatcher dispatcher, MessageIds ids, Intake intake) {
        this.intake = intake;
        this.setups = setups;
        this.steps = steps;
        this.keeping = keeping;
        this.dispatcher = dispatcher;
        this.ids = ids;
    }

    /** What has changed of one message. */
    record Change(StoredMessage now, List<Delivery.Owed> owed, List<Remembered.Row> remembered, Picked learnt) {}

    /**
     * What reading a message again came to.
     *
     * @param picked empty if it could not be read at all
     * @param whyNot why that is so; null if it could
     */
    record Result(Optional<Picked> picked, String whyNot) {}

    /**
     * @param said what is noted with messages that are others now
     * @param dry whether it is only looked at
     */
    public List<Again> again(List<StoredMessage> messages, Aim aim, String said, boolean dry) {
        Setup setup = setups.current();
        Map<UUID, List<LaneState>> states =
                keeping.records.states(messages.stream().map(StoredMessage::id).toList());
        List<Again> all = new ArrayList<>();
        List<Change> changes = new ArrayList<>();
        for (StoredMessage before : messages) {
            Optional<Inlet> apart = setup.inlet(before.arrival().inlet())
                    .filter(inlet -> !before.readable() && ArrivalParts.has(before.arrival(), inlet));
            if (apart.isPresent()) {
                all.add(takeApart(before, apart.get(), aim.reads(), dry));
                continue;
            }
            Optional<Picked> now =
                    before.readable() || aim.reads() ? read(before, setup, dry).picked() : Optional.empty();
            if (now.isEmpty() || now.get().message() == null) {
                all.add(new Again(before, !before.readable(), false, List.of(), List.of()));
                continue;
            }
            Picked picked = now.get();
            List<LaneState> known = states.getOrDefault(before.id().value(), List.of());
            List<Delivery.Owed> owed = new ArrayList<>();
            List<String> taken = new ArrayList<>();
            List<String> corrected = new ArrayList<>();
            for (Picker.Take take : picked.takes()) {
                Lane lane = take.lane();
                List<LaneState> its = of(take, known);
                if (!before.lanes().contains(lane.name())) {
                    if (!before.readable() || aim.takes(before, lane)) {
                        taken.add(lane.name());
                        if (lane.memory() == null) {
                            owed.add(owing(picked.stored(), take, 0));
                        }
                    }
                } else if (before.readable()
                        && delivered(its)
                        && aim.corrects(before, lane, new Now(picked.message(), its))) {
                    corrected.add(lane.name());
                    owed.add(owing(picked.stored(), take, its.size()));
                }
            }
            all.add(new Again(before, false, !before.readable(), taken, corrected));
            if (!before.readable() || !taken.isEmpty() || !owed.isEmpty()) {
                changes.add(new Change(
                        merged(before, picked.stored(), together(before.lanes(), taken), said),
                        owed,
                        remembered(before, picked, taken),
                        before.readable() ? null : picked));
            }
        }
        if (!dry && !changes.isEmpty()) {
            keep(changes);
        }
        return all;
    }

    /** Its parts are kept first: should this end in between, it is done again, and they are there already. */
    private Again takeApart(StoredMessage before, Inlet inlet, boolean reads, boolean dry) {
        Readings.Parts parts;
        try {
            parts = steps.readings().parts(before.arrival(), inlet);
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be taken apart still: {}", before.id(), e.getMessage());
            return new Again(before, true, false, List.of(), List.of());
        }
        if (reads && !dry) {
            intake.takeParts(parts.kept(), inlet);
            keeping.journal.reread(
                    List.of(StoredMessage.whole(
                            before.arrival(),
                            parts.kept().size(),
                            parts.ignored(),
                            setups.current().revision())),
                    List.of(),
                    List.of());
        }
        return new Again(before, !reads, reads, List.of(), List.of());
    }

    /** Lanes with memory get what they did not take before; lookouts look at what could not be read before. */
    private static List<Remembered.Row> remembered(StoredMessage before, Picked picked, List<String> taken) {
        return picked.remembered().stream()
                .filter(one -> one.isLookout() ? !before.readable() : taken.contains(one.lane()))
                .map(one -> one.of(before.id()))
                .toList();
    }

    private void keep(List<Change> changes) {
        List<Delivery.Owed> owed =
                changes.stream().flatMap(change -> change.owed.stream()).toList();
        keeping.journal.reread(
                changes.stream().map(Change::now).toList(),
                owed,
                changes.stream().flatMap(change -> change.remembered.stream()).toList());
        changes.stream()
                .map(Change::learnt)
                .filter(Objects::nonNull)
                .forEach(one -> steps.learning().learn(steps.learning().lesson(one.message())));
        owed.stream().map(Delivery.Owed::outlet).distinct().forEach(dispatcher::wake);
    }

    private static List<String> together(List<String> lanes, List<String> taken) {
        List<String> all = new ArrayList<>(lanes);
        taken.stream().distinct().forEach(all::add);
        return List.copyOf(all);
    }

    private static List<LaneState> of(Picker.Take take, List<LaneState> states) {
        return states.stream()
                .filter(state -> state.lane().equals(take.lane().name()) && Objects.equals(state.point(), take.point()))
                .toList();
    }

    /** Whether all that was owed so far has arrived. */
    private static boolean delivered(List<LaneState> states) {
        return !states.isEmpty()
                && states.stream().allMatch(state -> state.state().equals("delivered"));
    }

    private Delivery.Owed owing(StoredMessage message, Picker.Take take, int correction) {
        return Owing.owed(ids.next().value(), message, take, keeping.clock.instant(), correction);
    }

    /** @param dry whether the registry stays as it is */
    Result read(StoredMessage before, Setup setup, boolean dry) {
        Inlet inlet = setup.inlet(before.arrival().inlet()).orElse(null);
        if (inlet == null) {
            return new Result(Optional.empty(), "its inlet `" + before.arrival().inlet() + "` is no longer there");
        }
        try {
            Opened opened = steps.readings().open(before.arrival(), inlet);
            return new Result(Optional.of(steps.router().again(opened, before.duplicateKey(), setup, !dry)), null);
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be read still: {}", before.id(), e.getMessage());
            return new Result(Optional.empty(), e.getMessage());
        }
    }

    /** The model of a message's device; empty if there is none. */
    Optional<String> modelOf(StoredMessage message) {
        return Optional.ofNullable(steps.router().modelOf(message.device()));
    }

    /** What a message comes to that is read for the first time, later than it came. */
    Change firstReading(StoredMessage before, Result result, String said) {
        Picked picked = result.picked.orElse(null);
        if (picked == null) {
            return givenUp(before, result.whyNot);
        }
        StoredMessage now = picked.stored();
        String reason = now.reason() == null ? said : now.reason() + "; " + said;
        List<Delivery.Owed> owed = picked.deliveries().stream()
                .map(take -> Owing.first(ids.next().value(), now, take))
                .toList();
        return new Change(
                now.because(reason),
                owed,
                picked.remembered().stream().map(one -> one.of(before.id())).toList(),
                picked.message() == null ? null : picked);
    }

    /** What waited to be read will never be. */
    Change givenUp(StoredMessage before, String reason) {
        Origin origin = new Origin(before.device(), null, before.simulated(), before.sequence());
        return new Change(
                steps.router()
                        .unreadable(before.arrival(), reason, origin, setups.current())
                        .stored(),
                List.of(),
                List.of(),
                null);
    }

    /** Keeps these, where they wait still; gives those. */
    List<Change> keepDeferred(List<Change> changes) {
        Set<UUID> still = keeping.journal.readDeferred(
                changes.stream().map(Change::now).toList(),
                changes.stream().flatMap(change -> change.owed.stream()).toList(),
                changes.stream().flatMap(change -> change.remembered.stream()).toList());
        List<Change> kept = changes.stream()
                .filter(change -> still.contains(change.now.id().value()))
                .toList();
        kept.stream()
                .map(Change::learnt)
                .filter(Objects::nonNull)
                .forEach(one -> steps.learning().learn(steps.learning().lessonOfHeard(one.message())));
        return kept;
    }

    /** Whether its data are others now than when it came. */
    boolean differs(StoredMessage before, Now now) {
        Optional<Setup> then = setups.compiled(before.setupRevision());
        if (then.isEmpty()) {
            return false;
        }
        try {
            return !steps.readings()
                    .again(before, then.get())
                    .data()
                    .equals(now.message().data());
        } catch (CodecUnavailable e) {
            log.debug("Message {} cannot be compared: {}", before.id(), e.getMessage());
            return false;
        } catch (UnreadableContent e) {
            log.debug("Message {} could not be read by the setup of then: {}", before.id(), e.getMessage());
            return true;
        }
    }

    private static StoredMessage merged(StoredMessage before, StoredMessage now, List<String> lanes, String said) {
        String again =
                said + (before.readable() ? "" : "; before that it was " + before.state() + ": " + before.reason());
        return new StoredMessage(
                before.arrival(),
                now.state(),
                now.reason() == null ? again : now.reason() + "; " + again,
                now.device(),
                now.deviceRevision(),
                now.eventTime(),
                now.type(),
                now.simulated(),
                now.setupRevision(),
                lanes,
                now.sequence(),
                before.duplicateKey(),
                before.duplicateOf());
    }
}
