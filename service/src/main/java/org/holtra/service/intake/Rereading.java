package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.setup.Lane;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
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

    private final Intake.Steps steps;
    private final Store store;
    private final Rereader rereader;
    private final MessageIds ids;
    private final Map<String, Progress> known = new ConcurrentHashMap<>();
    private final ExecutorService thread = Executors.newSingleThreadExecutor(
            Thread.ofPlatform().daemon().name("rereading").factory());

    /** Where messages come from. */
    @Component
    record Store(Records records, InstantSource clock) {}

    Rereading(Intake.Steps steps, Store store, Rereader rereader, MessageIds ids) {
        this.steps = steps;
        this.store = store;
        this.rereader = rereader;
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
            MessageId last = MessageId.before(begun.order.from);
            while (last != null) {
                MessagePage page = store.records.after(last, begun.order.to, PAGE);
                reread(
                        page.messages().stream()
                                .filter(one -> wanted(one, begun.order))
                                .toList(),
                        begun,
                        count);
                known.put(begun.id, progress(begun, count, null, null));
                last = page.last();
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
        return message.cameAsFirst()
                // What waits to be read is read by itself.
                && !message.isDeferred()
                && (order.inlet == null || order.inlet.equals(message.arrival().inlet()))
                && (order.device == null || order.device.equals(message.device()))
                && (order.state == null || order.state.equals(message.state()))
                && (order.model == null || order.model.equals(steps.router().modelOf(message.device())));
    }

    private void reread(List<StoredMessage> messages, Progress begun, Count count) {
        Rereader.Aim aim = new Rereader.Aim() {
            @Override
            public boolean corrects(StoredMessage before, Lane lane, Rereader.Now now) {
                return begun.order.correct && rereader.differs(before, now);
            }
        };
        for (Rereader.Again again : rereader.again(messages, aim, said(begun), begun.order.dry)) {
            count.seen++;
            count.still += again.still() ? 1 : 0;
            count.read += again.readNow() ? 1 : 0;
            count.picked += again.taken().size();
            count.corrected += again.corrected().size();
        }
    }

    private static String said(Progress begun) {
        return "read again on " + begun.started.truncatedTo(ChronoUnit.SECONDS) + " by " + begun.by;
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
