package org.holtra.service.intake;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.stream.IntStream;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Origin;
import org.holtra.core.message.TraceContext;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.ArrivalParts;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.Reader;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.Acknowledgements;
import org.holtra.service.cluster.Node;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.entry.Cursor;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.holtra.service.spool.Spool;
import org.holtra.service.tracing.Journeys;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Takes an arrival of whatever kind: reads it, asks the lanes, and has it kept before anybody is told so. */
@Component
public class Intake {

    /** How an arrival becomes a message. */
    @Component
    record Steps(
            Readings readings,
            Duplicates duplicates,
            Router router,
            Learning learning,
            Deferrals deferrals,
            Journeys journeys,
            InstantSource clock) {}

    /** Where arrivals are kept. */
    @Component
    record Stores(Journal journal, Spool spool) {}

    private static final Logger log = LoggerFactory.getLogger(Intake.class);

    private final Setups setups;
    private final Steps steps;
    private final Stores stores;
    private final Dispatcher dispatcher;
    private final Acknowledgements acknowledgements;
    private final MessageIds ids;

    Intake(
            Setups setups,
            Steps steps,
            Stores stores,
            Dispatcher dispatcher,
            Acknowledgements acknowledgements,
            MessageIds ids) {
        this.setups = setups;
        this.steps = steps;
        this.stores = stores;
        this.dispatcher = dispatcher;
        this.acknowledgements = acknowledgements;
        this.ids = ids;
    }

    /** Before the first arrival, and after the setup is there. */
    public void load() {
        steps.duplicates.load(setups.current());
        steps.learning.load();
        steps.deferrals.load();
    }

    /** Forgets what is too old to matter. */
    public void forget() {
        steps.duplicates.forget(setups.current());
    }

    /** Why nothing can be taken in by any inlet; empty if it can. */
    public Optional<String> whyNot() {
        return setups.current().revision() == 0 ? setups.uncompiled().map(Setups.Uncompiled::text) : Optional.empty();
    }

    public MessageId nextId() {
        return ids.next();
    }

    /**
     * Completed once the message is durable. Its deliveries are on their way then, or, while the database is away, it
     * waits in the spool with nothing decided yet but its id and the time it came. One that the inlet ignores is not kept.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    public CompletableFuture<Receipt> take(Arrival arrival, Inlet inlet) {
        return steps.readings.ignores(arrival, inlet)
                ? CompletableFuture.completedFuture(new Receipt(arrival.id(), true))
                : keep(arrival, inlet).thenApply(Receipt::kept);
    }

    /**
     * The same of an arrival whose sender can be made to wait: while the database is away it is refused and not spooled. It is
     * spooled only if its commit fails on the way.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    public CompletableFuture<Receipt> takeUnlessAway(Arrival arrival, Inlet inlet) {
        if (stores.spool.isActive() || stores.journal.isAway()) {
            throw new JournalUnavailable("the database is away, or what was spooled comes first", null);
        }
        return take(arrival, inlet);
    }

    private CompletableFuture<MessageId> keep(Arrival arrival, Inlet inlet) {
        if (stores.spool.isActive() || stores.journal.isAway()) {
            return spool(arrival);
        }
        CompletableFuture<MessageId> taken;
        try {
            taken = journal(arrival, inlet);
        } catch (JournalUnavailable e) {
            return spool(arrival);
        }
        return stores.spool.isOn()
                ? taken.exceptionallyCompose(failure -> JournalUnavailable.isOfTheData(failure)
                        ? CompletableFuture.failedFuture(failure)
                        : spool(arrival))
                : taken;
    }

    private CompletableFuture<MessageId> spool(Arrival arrival) {
        return stores.spool.keep(arrival).thenApply(nothing -> arrival.id());
    }

    /**
     * Keeps a page of what an inlet reads, with the place up to which it has read then, in one transaction; returns once that
     * is durable, and the arrivals are acknowledged. Never by way of the spool: what was read can be read again.
     *
     * @throws JournalUnavailable if it is not kept now, or the page is no longer the next one
     */
    public void takePage(List<Arrival> page, Inlet inlet, Cursor cursor) {
        if (stores.spool.isActive()) {
            throw new JournalUnavailable("what was spooled comes first", null);
        }
        List<Receipt> receipts = page.stream()
                .map(arrival -> new Receipt(arrival.id(), steps.readings.ignores(arrival, inlet)))
                .toList();
        List<Arrival> kept = IntStream.range(0, page.size())
                .filter(i -> !receipts.get(i).ignored())
                .mapToObj(page::get)
                .toList();
        if (kept.isEmpty()) {
            stores.journal.move(cursor);
        }
        Together together = new Together(stores.journal, cursor);
        try {
            List<CompletableFuture<MessageId>> taken = kept.stream()
                    .map(arrival -> journal(arrival, inlet, together))
                    .toList();
            together.commit();
            taken.forEach(CompletableFuture::join);
        } catch (CompletionException e) {
            throw new JournalUnavailable("the page could not be kept", e.getCause());
        }
        receipts.forEach(receipt -> acknowledged(receipt, inlet.name()));
    }

    /** How what was read comes into the journal. */
    interface Appending {
        /** @throws JournalUnavailable if nothing can be kept now, directly or through the future */
        CompletableFuture<Journal.Kept> append(Journal.Entry entry);
    }

    private CompletableFuture<MessageId> journal(Arrival arrival, Inlet inlet) {
        if (!ArrivalParts.has(arrival, inlet)) {
            return journal(arrival, inlet, stores.journal::append);
        }
        Together together = new Together(stores.journal);
        CompletableFuture<MessageId> taken = journal(arrival, inlet, together);
        Thread.ofVirtual().name("parts").start(together::commit);
        return taken;
    }

    /**
     * The same, but never by way of the spool.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    CompletableFuture<MessageId> journal(Arrival arrival, Inlet inlet, Appending journal) {
        return readOrKeep(arrival, inlet, journal)
                .exceptionallyCompose(failure -> JournalUnavailable.isOfTheMessage(failure)
                        ? unstorable(arrival, failure, journal)
                        : CompletableFuture.failedFuture(failure));
    }

    /** Whatever goes wrong with one message on its way to the journal, it is kept, and those behind it go on. */
    private CompletableFuture<MessageId> readOrKeep(Arrival arrival, Inlet inlet, Appending journal) {
        try {
            return read(arrival, inlet, journal);
        } catch (JournalUnavailable e) {
            throw e;
        } catch (RuntimeException | StackOverflowError e) {
            log.error("Message {} of inlet {} could not be picked", arrival.id(), arrival.inlet(), e);
            String reason = "Holtra failed to pick lanes for it, which is a defect of Holtra's: " + e;
            return keep(
                    steps.router.unreadable(arrival, reason, new Origin(null, null, false, null), setups.current()),
                    null,
                    journal);
        }
    }

    /** What was read of an arrival is nothing the database can hold, such as a device's key with a zero byte. */
    private CompletableFuture<MessageId> unstorable(Arrival arrival, Throwable failure, Appending journal) {
        log.warn("What was read of message {} could not be stored", arrival.id(), failure);
        return keep(
                steps.router.unreadable(
                        arrival,
                        "what was read of it cannot be stored; a text in it may hold a zero byte",
                        new Origin(null, null, false, null),
                        setups.current()),
                null,
                journal);
    }

    private CompletableFuture<MessageId> read(Arrival arrival, Inlet inlet, Appending journal) {
        Setup setup = setups.current();
        if (ArrivalParts.has(arrival, inlet)) {
            return readParts(arrival, inlet, setup, journal);
        }
        Opened opened;
        try {
            opened = steps.readings.open(arrival, inlet);
        } catch (UnreadableContent e) {
            return keepUnreadable(arrival, inlet, e, setup, journal);
        }
        String same = opened.origin().device() == null ? null : opened.duplicateKey();
        return same == null ? takeFirst(opened, null, setup, journal) : takeUnlessCopy(opened, same, setup, journal);
    }

    private CompletableFuture<MessageId> keepUnreadable(
            Arrival arrival, Inlet inlet, UnreadableContent why, Setup setup, Appending journal) {
        boolean simulated = why.simulated() || Reader.simulated(arrival, inlet);
        return keep(
                steps.router.unreadable(arrival, why.getMessage(), new Origin(null, null, simulated, null), setup),
                null,
                journal);
    }

    /** What cannot be read of one part does not harm the others. */
    private CompletableFuture<MessageId> readParts(Arrival whole, Inlet inlet, Setup setup, Appending journal) {
        Readings.Parts parts;
        try {
            parts = steps.readings.parts(whole, inlet);
        } catch (UnreadableContent e) {
            return keepUnreadable(whole, inlet, e, setup, journal);
        }
        List<CompletableFuture<MessageId>> kept = new ArrayList<>();
        kept.add(keep(steps.router.whole(whole, parts, setup), null, journal));
        parts.kept().forEach(part -> kept.add(journal(part, inlet, journal)));
        return CompletableFuture.allOf(kept.toArray(CompletableFuture[]::new)).thenApply(all -> whole.id());
    }

    /**
     * Takes the parts of an arrival that could not be taken apart when it came. Those that are kept already are left as they
     * are, since their ids follow from the whole's.
     *
     * @throws JournalUnavailable if they cannot be kept now
     */
    void takeParts(List<Arrival> parts, Inlet inlet) {
        Set<UUID> there =
                stores.journal.existing(parts.stream().map(Arrival::id).toList());
        Together together = new Together(stores.journal);
        List<CompletableFuture<MessageId>> kept = parts.stream()
                .filter(part -> !there.contains(part.id().value()))
                .map(part -> journal(part, inlet, together))
                .toList();
        together.commit();
        try {
            kept.forEach(CompletableFuture::join);
        } catch (CompletionException e) {
            throw new JournalUnavailable("the parts could not be kept", e.getCause());
        }
    }

    /** An arrival whose inlet is no longer there: it is kept, and says so. */
    CompletableFuture<MessageId> orphan(Arrival arrival, Appending journal) {
        String reason = "its inlet `" + arrival.inlet() + "` was removed while it waited in the spool";
        return keep(
                steps.router.unreadable(arrival, reason, new Origin(null, null, false, null), setups.current()),
                null,
                journal);
    }

    /** The sender is told that the message is taken. Said before it is: of what was acknowledged nothing may be missing. */
    public void acknowledged(Receipt receipt, String inlet) {
        acknowledgements.add(receipt.id(), inlet, receipt.ignored());
    }

    private CompletableFuture<MessageId> takeUnlessCopy(Opened opened, String same, Setup setup, Appending journal) {
        CompletableFuture<MessageId> kept = new CompletableFuture<>();
        Duplicates.First first = steps.duplicates.before(opened, same, kept);
        if (first != null) {
            // A duplicate is none before the first is durable: should that fail, this one takes its place.
            return first.kept()
                    .handle((id, failure) -> failure == null
                            ? keep(steps.router.duplicate(opened, same, first.id(), setup), null, journal)
                            : takeUnlessCopy(opened, same, setup, journal))
                    .thenCompose(done -> done);
        }
        try {
            takeFirst(opened, same, setup, journal).whenComplete((id, failure) -> {
                if (failure == null) {
                    kept.complete(id);
                } else {
                    kept.completeExceptionally(failure);
                }
            });
        } catch (RuntimeException e) {
            kept.completeExceptionally(e);
            throw e;
        }
        return kept;
    }

    private CompletableFuture<MessageId> takeFirst(Opened opened, String same, Setup setup, Appending journal) {
        try {
            Instant duplicatesSince = same == null
                    ? null
                    : opened.arrival()
                            .received()
                            .minus(opened.inlet().identity().duplicates().within());
            String key = Deferrals.keyOf(opened);
            if (steps.deferrals.joins(key)) {
                return defer(steps.router.behind(opened, same, setup), key, duplicatesSince, journal);
            }
            Picked picked = steps.router.route(opened, same, setup);
            if (picked.isDeferred()) {
                steps.deferrals.begins(key);
                return defer(picked, key, duplicatesSince, journal);
            }
            return keep(picked, duplicatesSince, journal);
        } catch (DataAccessException | TransactionException e) {
            stores.journal.missed(e);
            throw new JournalUnavailable("the registry cannot be reached", e);
        }
    }

    private CompletableFuture<MessageId> defer(Picked picked, String key, Instant duplicatesSince, Appending journal) {
        try {
            return keep(picked, duplicatesSince, journal)
                    .whenComplete((id, failure) -> steps.deferrals.arrived(key, failure == null));
        } catch (RuntimeException e) {
            steps.deferrals.arrived(key, false);
            throw e;
        }
    }

    private CompletableFuture<MessageId> keep(Picked picked, Instant duplicatesSince, Appending journal) {
        Learning.Lesson lesson = picked.message() != null
                ? steps.learning.lesson(picked.message())
                : picked.isDeferred() ? steps.learning.lessonOfArrival(picked.stored()) : null;
        List<Delivery.Owed> owed = new ArrayList<>(picked.takes().size());
        Node.Standing standing = stores.journal.standing();
        Set<UUID> mine = new HashSet<>();
        long bytes = picked.stored().arrival().body().length;
        for (Picker.Take take : picked.deliveries()) {
            Delivery.Owed one = Owing.first(ids.next().value(), picked.stored(), take);
            owed.add(one);
            if (dispatcher.reserve(one, bytes)) {
                mine.add(one.id());
            }
        }
        CompletableFuture<Journal.Kept> durable;
        try {
            durable = journal.append(new Journal.Entry(
                    picked.stored(),
                    owed,
                    picked.remembered(),
                    new Journal.Hold(mine, standing),
                    duplicatesSince,
                    null));
        } catch (JournalUnavailable e) {
            forget(owed, mine, bytes);
            throw e;
        }
        return durable.handle((kept, failure) -> {
            if (Journal.isUncertain(failure)) {
                doubt(owed, mine, bytes);
            } else if (failure != null || kept.duplicateOf() != null) {
                forget(owed, mine, bytes);
            }
            if (failure != null) {
                throw new JournalUnavailable("the journal cannot be written", failure);
            }
            if (steps.journeys.isOn()) {
                told(picked.stored());
            }
            if (kept.duplicateOf() == null) {
                dispatch(picked, owed, new Journal.Hold(mine, standing), kept.mine());
                if (lesson != null) {
                    steps.learning.learn(lesson);
                }
            }
            return picked.stored().id();
        });
    }

    private void told(StoredMessage stored) {
        steps.journeys.kept(
                TraceContext.of(stored.id(), stored.arrival().transport().traceParent()),
                new Journeys.Kept(
                        stored.arrival().inlet(),
                        stored.device(),
                        stored.type() == null ? stored.state() : stored.type(),
                        stored.id().received(),
                        steps.clock.instant()));
    }

    private void dispatch(Picked picked, List<Delivery.Owed> owed, Journal.Hold reserved, Set<UUID> mine) {
        long bytes = picked.stored().arrival().body().length;
        for (Delivery.Owed one : owed) {
            if (mine.contains(one.id())) {
                dispatcher.offer(
                        new Delivery(one, picked.stored()),
                        picked.message(),
                        reserved.standing().id());
            } else if (reserved.deliveries().contains(one.id())) {
                dispatcher.notOurs(one, bytes);
            } else {
                dispatcher.leftInTable(one);
            }
        }
    }

    /**
     * Nobody can tell whether they are in the table. As long as that is so, what comes for the same devices goes by the
     * table, behind them; the dispatcher is told once the journal knows.
     */
    private void doubt(List<Delivery.Owed> owed, Set<UUID> reserved, long bytes) {
        for (Delivery.Owed one : owed) {
            if (reserved.contains(one.id())) {
                dispatcher.uncertain(one, bytes);
            }
        }
    }

    private void forget(List<Delivery.Owed> owed, Set<UUID> reserved, long bytes) {
        for (Delivery.Owed one : owed) {
            if (reserved.contains(one.id())) {
                dispatcher.unreserve(one, bytes);
            } else {
                dispatcher.leftInTable(one);
            }
        }
    }
}
