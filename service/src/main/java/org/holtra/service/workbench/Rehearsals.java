package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.history.Stretch;
import org.holtra.service.journal.entry.StoredMessage;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Rehearsals under way and lately ended. They run in the background, two at a time, and are gone after a restart. */
@Component
class Rehearsals implements AutoCloseable {

    private static final int PAGE = 1_000;
    private static final int READERS = 8;
    private static final int KEPT = 50;
    private static final long MOST = 1_000_000;
    private static final Duration USUAL_SPAN = Duration.ofDays(1);
    private static final Logger log = LoggerFactory.getLogger(Rehearsals.class);

    private final Records records;
    private final Rehearser.Sources sources;
    private final MessageIds ids;
    private final InstantSource clock;
    private final ExecutorService threads = Executors.newFixedThreadPool(
            2, Thread.ofPlatform().daemon().name("rehearsal-", 0).factory());
    /** Several at once, since scripts are run in another process and answer sooner when they are asked in a row. */
    private final ExecutorService readers = Executors.newFixedThreadPool(
            READERS, Thread.ofPlatform().daemon().name("rehearsal-read-", 0).factory());

    private final Map<String, Rehearsal> known = new ConcurrentHashMap<>();
    private final Set<String> cancelled = ConcurrentHashMap.newKeySet();

    Rehearsals(Records records, Rehearser.Sources sources, MessageIds ids, InstantSource clock) {
        this.records = records;
        this.sources = sources;
        this.ids = ids;
        this.clock = clock;
    }

    Rehearsal start(Lane lane, Setup setup, Rehearsal.Order order, String by) {
        if (known.size() > KEPT) {
            known.values().removeIf(one -> one.ended() != null);
        }
        Instant now = clock.instant();
        Rehearsal.Order whole = new Rehearsal.Order(
                order.last(),
                order.from() != null ? order.from() : order.last() == null ? now.minus(USUAL_SPAN) : Instant.EPOCH,
                order.to() == null ? now : order.to(),
                order.factsThen());
        Rehearsal begun = new Rehearsal(
                ids.next().toString(),
                lane.name(),
                whole,
                by,
                now,
                null,
                null,
                0,
                new Rehearsal.Counts(0, 0, 0, 0, 0, 0, 0, 0, 0),
                null,
                List.of());
        known.put(begun.id(), begun);
        threads.execute(() -> run(begun, lane, setup));
        return begun;
    }

    Optional<Rehearsal> find(String id) {
        return Optional.ofNullable(known.get(id));
    }

    /** False if it is not known. */
    boolean cancel(String id) {
        if (!known.containsKey(id)) {
            return false;
        }
        cancelled.add(id);
        return true;
    }

    private void run(Rehearsal begun, Lane lane, Setup setup) {
        Lane live = setup.lanes().get(lane.name());
        Rehearser rehearser =
                new Rehearser(live, lane, setup, sources, begun.order().factsThen());
        long of = 0;
        try {
            Set<String> inlets = new HashSet<>(lane.inlets());
            if (live != null) {
                inlets.addAll(live.inlets());
            }
            long most = begun.order().last() == null
                    ? MOST
                    : Math.min(MOST, begun.order().last());
            Stretch stretch =
                    records.stretch(inlets, begun.order().from(), begun.order().to(), most);
            of = stretch.count();
            if (stretch.first() != null) {
                look(begun, rehearser, inlets, stretch);
            }
            rehearser.end(begun.order().to());
            end(begun, rehearser, of, cancelled.remove(begun.id()) ? "it was cancelled" : null);
        } catch (RuntimeException e) {
            log.error("Rehearsal {} of lane {} failed", begun.id(), lane.name(), e);
            end(begun, rehearser, of, "it failed: " + e.getMessage());
        }
    }

    private void look(Rehearsal begun, Rehearser rehearser, Set<String> inlets, Stretch stretch) {
        // The least id of the first millisecond: ids begin with the time.
        MessageId after =
                new MessageId(new UUID(stretch.first().toEpochMilli() << 16 | 0x7000, 0x8000_0000_0000_0000L));
        long left = stretch.count();
        Future<MessagePage> fetched = fetch(begun, inlets, after, left);
        while (left > 0
                && !cancelled.contains(begun.id())
                && !Thread.currentThread().isInterrupted()) {
            List<StoredMessage> page = result(fetched).messages();
            if (page.isEmpty()) {
                return;
            }
            left -= page.size();
            // The next page is on its way while this one is looked at.
            fetched = fetch(begun, inlets, page.getLast().id(), left);
            List<Future<Message>> read = page.stream()
                    .map(stored -> readers.submit(() -> rehearser.read(stored)))
                    .toList();
            for (int at = 0; at < page.size(); at++) {
                rehearser.look(page.get(at), result(read.get(at)));
            }
            known.put(begun.id(), state(begun, rehearser, null, stretch.count(), null, null));
        }
    }

    private Future<MessagePage> fetch(Rehearsal begun, Set<String> inlets, MessageId after, long left) {
        return readers.submit(() -> left <= 0
                ? MessagePage.EMPTY
                : records.readAfter(inlets, after, begun.order().to(), (int) Math.min(PAGE, left)));
    }

    private static <T> T result(Future<T> read) {
        try {
            return read.get();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException("the service is ending", e);
        } catch (ExecutionException e) {
            throw new IllegalStateException(e.getCause());
        }
    }

    private void end(Rehearsal begun, Rehearser rehearser, long of, String stopped) {
        Long made = rehearser.rememberedBefore()
                ? records.countMade(
                        begun.lane(), begun.order().from(), begun.order().to())
                : null;
        known.put(begun.id(), state(begun, rehearser, made, of, clock.instant(), stopped));
    }

    /** @param madeThen by the active lane; null while that is not counted */
    private static Rehearsal state(
            Rehearsal begun, Rehearser rehearser, Long madeThen, long of, Instant ended, String stopped) {
        return new Rehearsal(
                begun.id(),
                begun.lane(),
                begun.order(),
                begun.by(),
                begun.started(),
                ended,
                stopped,
                of,
                rehearser.counts(),
                rehearser.remembering(madeThen),
                rehearser.examples());
    }

    @Override
    public void close() {
        threads.shutdownNow();
        readers.shutdownNow();
    }
}
