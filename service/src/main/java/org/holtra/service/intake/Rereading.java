package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.LaneState;
import org.holtra.service.journal.Records;
import org.holtra.service.journal.StoredMessage;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Reads messages of the past again, by the setup and the registry of today. What could not be read or claimed goes where
 * lanes want it now; what was delivered is not delivered again, unless it was read differently and that is to be
 * corrected.
 */
@Component
public class Rereading implements AutoCloseable {

    /**
     * Which messages, and how.
     *
     * @param inlet and {@code device}, {@code model}, {@code state}: only of these; null for any
     * @param to null for now
     * @param correct whether what was delivered is delivered again, under a key of its own, where its data are others now
     * @param dry whether it is only looked at
     */
    public record Order(
            Instant from,
            Instant to,
            String inlet,
            String device,
            String model,
            String state,
            Boolean correct,
            Boolean dry) {

        /** What is not said of the last two is false. */
        public Order {
            correct = Boolean.TRUE.equals(correct);
            dry = Boolean.TRUE.equals(dry);
        }

        Order until(Instant now) {
            return to == null ? new Order(from, now, inlet, device, model, state, correct, dry) : this;
        }
    }

    /**
     * How far it is.
     *
     * @param ended null as long as it runs
     * @param seen how many messages were looked at
     * @param read how many that were not readable or claimed are read now
     * @param still how many are not
     * @param picked how many deliveries came of it, corrections apart
     * @param corrected how many corrections
     * @param failure why it ended early, or null
     */
    public record Progress(
            String id,
            Order order,
            String by,
            Instant started,
            Instant ended,
            long seen,
            long read,
            long still,
            long picked,
            long corrected,
            String failure) {}

    private static final int PAGE = 200;
    private static final int KEPT = 50;
    private static final Logger log = LoggerFactory.getLogger(Rereading.class);

    private final Setups setups;
    private final Intake.Steps steps;
    private final Store store;
    private final Dispatcher dispatcher;
    private final MessageIds ids;
    private final Map<String, Progress> known = new ConcurrentHashMap<>();
    private final ExecutorService thread = Executors.newSingleThreadExecutor(
            Thread.ofPlatform().daemon().name("rereading").factory());

    /** Where messages come from and go to. */
    @Component
    record Store(Records records, Journal journal, InstantSource clock) {}

    Rereading(Setups setups, Intake.Steps steps, Store store, Dispatcher dispatcher, MessageIds ids) {
        this.setups = setups;
        this.steps = steps;
        this.store = store;
        this.dispatcher = dispatcher;
        this.ids = ids;
    }

    /** Runs in the background, one order after another. */
    public Progress start(Order order, String by) {
        if (known.size() > KEPT) {
            known.values().removeIf(one -> one.ended != null);
        }
        Instant now = store.clock.instant();
        Progress begun = new Progress(ids.next().toString(), order.until(now), by, now, null, 0, 0, 0, 0, 0, null);
        known.put(begun.id, begun);
        thread.execute(() -> run(begun));
        return begun;
    }

    public Optional<Progress> find(String id) {
        return Optional.ofNullable(known.get(id));
    }

    private void run(Progress begun) {
        Count count = new Count();
        String failure = null;
        try {
            Instant start = begun.order.from.minusMillis(1);
            MessageId last = new MessageId(new UUID(start.toEpochMilli() << 16 | 0x7fff, -1L));
            while (last != null) {
                List<StoredMessage> page = store.records.after(last, begun.order.to, PAGE);
                reread(page.stream().filter(one -> wanted(one, begun.order)).toList(), begun, count);
                known.put(begun.id, progress(begun, count, null, null));
                last = page.size() < PAGE ? null : page.getLast().id();
            }
        } catch (RuntimeException e) {
            log.error("Reading messages again ended early", e);
            failure = e.getMessage();
        }
        known.put(begun.id, progress(begun, count, store.clock.instant(), failure));
    }

    private static final class Count {
        long seen;
        long read;
        long still;
        long picked;
        long corrected;
    }

    private static Progress progress(Progress begun, Count count, Instant ended, String failure) {
        return new Progress(
                begun.id,
                begun.order,
                begun.by,
                begun.started,
                ended,
                count.seen,
                count.read,
                count.still,
                count.picked,
                count.corrected,
                failure);
    }

    private boolean wanted(StoredMessage message, Order order) {
        return !message.state().equals(StoredMessage.DUPLICATE)
                && !message.state().equals(StoredMessage.TRIAL)
                && (order.inlet == null || order.inlet.equals(message.arrival().inlet()))
                && (order.device == null || order.device.equals(message.device()))
                && (order.state == null || order.state.equals(message.state()))
                && (order.model == null || order.model.equals(steps.sorter().modelOf(message.device())));
    }

    private void reread(List<StoredMessage> messages, Progress begun, Count count) {
        Setup setup = setups.current();
        Map<UUID, List<LaneState>> states =
                store.records.states(messages.stream().map(StoredMessage::id).toList());
        List<StoredMessage> changed = new ArrayList<>();
        List<Delivery.Owed> owed = new ArrayList<>();
        List<Picked> learnt = new ArrayList<>();
        for (StoredMessage before : messages) {
            count.seen++;
            Optional<Picked> now = again(before, setup, begun.order.dry);
            if (now.isEmpty() || now.get().message() == null) {
                count.still += before.readable() ? 0 : 1;
                continue;
            }
            Picked picked = now.get();
            List<String> lanes = new ArrayList<>(before.lanes());
            int owedBefore = owed.size();
            boolean correct = begun.order.correct && before.readable() && differs(before, picked);
            for (Picker.Take take : picked.takes()) {
                if (!before.lanes().contains(take.lane().name())) {
                    lanes.add(take.lane().name());
                    owed.add(owing(picked.stored(), take, 0));
                    count.picked++;
                } else if (correct) {
                    List<LaneState> known =
                            of(take, states.getOrDefault(before.id().value(), List.of()));
                    if (delivered(known)) {
                        owed.add(owing(picked.stored(), take, known.size()));
                        count.corrected++;
                    }
                }
            }
            if (!before.readable()) {
                count.read++;
                learnt.add(picked);
            }
            if (!before.readable() || owed.size() > owedBefore) {
                changed.add(merged(before, picked.stored(), List.copyOf(lanes), begun));
            }
        }
        if (!begun.order.dry && !changed.isEmpty()) {
            store.journal.reread(changed, owed);
            learnt.forEach(one -> steps.learning().learn(steps.learning().lesson(one.message())));
            owed.stream().map(Delivery.Owed::outlet).distinct().forEach(dispatcher::wake);
        }
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
        return Owing.owed(ids.next().value(), message, take, store.clock.instant(), correction);
    }

    private Optional<Picked> again(StoredMessage before, Setup setup, boolean dry) {
        Inlet inlet = setup.inlets().get(before.arrival().inlet());
        if (inlet == null) {
            return Optional.empty();
        }
        try {
            Opened opened = steps.readings().open(before.arrival(), inlet);
            return Optional.of(
                    dry
                            ? steps.sorter().tried(opened, before.copyKey(), setup)
                            : steps.sorter().sort(opened, before.copyKey(), setup));
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be read still: {}", before.id(), e.getMessage());
            return Optional.empty();
        }
    }

    private boolean differs(StoredMessage before, Picked now) {
        Optional<Setup> then = setups.compiled(before.setupRevision());
        if (then.isEmpty()) {
            return false;
        }
        try {
            return !steps.readings()
                    .again(before, then.get())
                    .data()
                    .equals(now.message().data());
        } catch (UnreadableContent e) {
            return true;
        }
    }

    private StoredMessage merged(StoredMessage before, StoredMessage now, List<String> lanes, Progress begun) {
        String again =
                "read again on " + begun.started.truncatedTo(java.time.temporal.ChronoUnit.SECONDS) + " by " + begun.by
                        + (before.readable() ? "" : "; before that it was " + before.state() + ": " + before.reason());
        return new StoredMessage(
                before.arrival(),
                now.state(),
                now.reason() == null ? again : now.reason() + "; " + again,
                now.device(),
                now.deviceRevision(),
                now.eventTime(),
                now.sort(),
                now.simulated(),
                now.setupRevision(),
                lanes,
                now.sequence(),
                before.copyKey(),
                before.copyOf());
    }

    /** A span that ends now, for those who do not say more. */
    public static Order unreadOf(String device, Duration back, Instant now) {
        return new Order(now.minus(back), now, null, device, null, StoredMessage.UNCLAIMED, false, false);
    }

    @Override
    public void close() {
        thread.shutdownNow();
    }
}
