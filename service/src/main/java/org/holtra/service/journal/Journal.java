package org.holtra.service.journal;

import static org.holtra.service.database.Columns.column;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.function.Consumer;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.holtra.core.message.MessageId;
import org.holtra.service.cluster.Node;
import org.holtra.service.database.DatabaseAvailability;
import org.holtra.service.database.JournalTransaction;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.journal.entry.Cursor;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.HeldDelivery;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.journal.sql.AttemptColumns;
import org.holtra.service.journal.sql.CursorMapper;
import org.holtra.service.journal.sql.DeadLetterMapper;
import org.holtra.service.journal.sql.MessageColumns;
import org.holtra.service.journal.sql.MessageMapper;
import org.holtra.service.journal.sql.MessageRow;
import org.holtra.service.journal.sql.OutcomeMapper;
import org.holtra.service.journal.sql.OwedColumns;
import org.holtra.service.journal.sql.OwedMapper;
import org.holtra.service.journal.sql.RememberedMapper;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.util.function.SingletonSupplier;

/** The durable store of messages, deliveries and outcomes: where they are written. */
@Component
public class Journal implements AutoCloseable {

    /**
     * A message, with the deliveries it gives rise to.
     *
     * @param hold what this node means to have of it
     * @param duplicatesSince when the message may have come first that this is a duplicate of; null if it has no duplicates
     * @param cursor that moves with it; null if none does
     */
    public record Entry(
            StoredMessage message,
            List<Delivery.Owed> owed,
            List<Remembered> remembered,
            Hold hold,
            Instant duplicatesSince,
            Cursor cursor) {

        private long bytes() {
            return message.arrival().body().length;
        }

        /** The same, and the cursor of its inlet moves with it. */
        public Entry moving(Cursor its) {
            return new Entry(message, owed, remembered, hold, duplicatesSince, its);
        }
    }

    /**
     * What a node means to dispatch from memory; the rest is claimed from the table.
     *
     * @param standing this node's when it decided so
     */
    public record Hold(Set<UUID> deliveries, Node.Standing standing) {}

    /**
     * What was kept.
     *
     * @param mine the deliveries that this node dispatches from memory
     * @param duplicateOf the message that was kept before and that this is a duplicate of; null if it is none
     */
    public record Kept(Set<UUID> mine, UUID duplicateOf) {

        private static final Kept NOTHING_TO_SEND = new Kept(Set.of(), null);
    }

    private static final int MOST_WAITING = 10_000;
    private static final int LARGEST_GROUP = 500;
    /** So much later a crash would let something be delivered twice that was delivered. */
    private static final Duration SETTLEMENTS_OPEN = Duration.ofMillis(10);

    private static final long PAUSE_WHILE_AWAY_MILLIS = 500;
    private static final Logger log = LoggerFactory.getLogger(Journal.class);

    private final Mappers mappers;
    private final JournalTransaction transaction;
    private final Node node;
    private final InstantSource clock;
    private final Supplier<List<JournalListener>> listeners;
    private final GroupCommit<Entry, Kept> entries;
    private final GroupCommit<Settlement.By, Void> settlements;
    private final UncertainWrites<Delivery.Owed> uncertain = new UncertainWrites<>();
    private final DatabaseAvailability database;
    private final Days days;

    /** The statements the journal writes with. */
    @Component
    record Mappers(
            MessageMapper messages,
            OwedMapper owed,
            OutcomeMapper outcomes,
            DeadLetterMapper dead,
            RememberedMapper remembered,
            IdempotencyKeys keys,
            CursorMapper cursors) {}

    Journal(
            Mappers mappers,
            JournalTransaction transaction,
            Node node,
            DatabaseAvailability database,
            Days days,
            InstantSource clock,
            ObjectProvider<JournalListener> listeners) {
        this.mappers = mappers;
        this.transaction = transaction;
        this.node = node;
        this.database = database;
        this.days = days;
        this.clock = clock;
        this.listeners = SingletonSupplier.of(() -> listeners.stream().toList());
        this.entries = new GroupCommit<>(
                "journal-entries",
                new GroupCommit.Limits<>(MOST_WAITING, LARGEST_GROUP, Entry::bytes),
                this::writeEntries);
        this.settlements = new GroupCommit<>(
                "journal-settlements",
                new GroupCommit.Limits<>(MOST_WAITING, LARGEST_GROUP, Settlement.By::bytes),
                SETTLEMENTS_OPEN,
                this::writeSettlements);
    }

    /**
     * Completed once the entry is durable, or exceptionally if it is not.
     *
     * @throws JournalUnavailable if the database is away, or too much waits to be written already
     */
    public CompletableFuture<Kept> append(Entry entry) {
        if (isAway()) {
            throw new JournalUnavailable("the database is away", null);
        }
        return entries.submit(entry);
    }

    /**
     * The same for several, in one transaction: all are kept or none, so that none is there before one that came earlier. An
     * entry that cannot be stored fails them all.
     *
     * @throws JournalUnavailable if the database is away, or too much waits to be written already
     */
    public List<CompletableFuture<Kept>> appendTogether(List<Entry> together) {
        if (isAway()) {
            throw new JournalUnavailable("the database is away", null);
        }
        return entries.submitTogether(together);
    }

    /** Whether what failed so may have been written all the same. */
    public static boolean isUncertain(Throwable failure) {
        for (Throwable at = failure; at != null; at = at.getCause()) {
            if (at instanceof JournalUnavailable) {
                return at.getCause() != null && isUncertain(at.getCause());
            }
            if (at instanceof DataAccessException || at instanceof TransactionException) {
                return !JournalUnavailable.isOfTheData(at);
            }
        }
        return false;
    }

    /** As what this node decides what it means to own. */
    public Node.Standing standing() {
        return node.standing();
    }

    /** Whether the database could not be written when it was tried last. */
    public boolean isAway() {
        return database.isAway();
    }

    /** Since when that is so; empty if it is not. */
    public Optional<Instant> awaySince() {
        return database.awaySince();
    }

    /** The database did not answer somebody else. */
    public void missed(RuntimeException failure) {
        if (!JournalUnavailable.isOfTheData(failure)) {
            database.away(failure);
        }
    }

    /** Looks whether a database that was away is back. */
    public void lookForDatabase() {
        if (isAway()) {
            try {
                transaction.execute(mappers.owed::answers);
                database.back();
            } catch (DataAccessException | TransactionException e) {
                log.debug("The database is still away: {}", e.getMessage());
            }
        }
    }

    /**
     * Sets free what turned up though it could not be told whether it was written.
     *
     * @return deliveries about which there is no doubt any more: they are in the table, and nobody's, or will never be there
     */
    public List<Delivery.Owed> settleDoubts() {
        Set<UUID> open = isAway() ? Set.of() : uncertain.open();
        if (open.isEmpty()) {
            return List.of();
        }
        UUID[] ids = open.toArray(UUID[]::new);
        Instant now = clock.instant();
        Set<UUID> found = transaction.execute(() -> mappers.owed.free(ids, node.id(), now));
        return uncertain.lookedFor(open, found, now);
    }

    /**
     * Deliveries that the table says this node has in its hands, the oldest of each lane.
     *
     * @param each how many of a lane at most
     */
    public List<HeldDelivery> heldByThisNode(int each) {
        return mappers.owed.heldBy(node.id(), each);
    }

    /** What an outlet owes messages of these devices, and was to wait for at most so long, is due now. */
    public void bringForward(String outlet, Collection<String> devices, Duration most) {
        Instant now = clock.instant();
        transaction.execute(
                () -> mappers.owed.bringForward(outlet, devices.toArray(String[]::new), now, now.plus(most)));
    }

    /** Sets free what this node was found not to have in its hands. */
    public void free(Set<UUID> ids) {
        transaction.execute(() -> mappers.owed.free(ids.toArray(UUID[]::new), node.id(), clock.instant()));
    }

    /**
     * Completed once the settlement is durable. While the database is away it waits: the delivery has been attempted, and
     * forgetting that would send it twice.
     *
     * @param owner the id of the node under which the delivery was taken
     */
    public CompletableFuture<Void> settle(Settlement settlement, UUID owner) throws InterruptedException {
        return settlements.submitPatiently(new Settlement.By(settlement, owner), settlement.isAwaited());
    }

    /** Messages read again, with what they are owed for that and who remembers them, in one transaction. */
    public void reread(List<StoredMessage> messages, List<Delivery.Owed> owed, List<Remembered.Row> remembered) {
        transaction.execute(() -> {
            mappers.messages.update(MessageColumns.of(messages));
            if (!remembered.isEmpty()) {
                mappers.remembered.insert(Remembered.Columns.of(remembered));
            }
            return owed.isEmpty() ? Set.of() : insert(owed, new UUID[owed.size()], node.joins());
        });
    }

    /** Why a message waits to be read has changed. */
    public void deferredFor(MessageId id, String reason) {
        transaction.execute(() -> mappers.messages.deferredFor(id.received(), id.value(), reason));
    }

    /**
     * Messages that waited to be read, as they are read now, with what comes of that; in one transaction. What another node
     * read meanwhile stays as that one read it.
     *
     * @return the ids of those that waited still
     */
    public Set<UUID> readDeferred(
            List<StoredMessage> messages, List<Delivery.Owed> owed, List<Remembered.Row> remembered) {
        return transaction.execute(() -> {
            Set<UUID> still = mappers.messages.stillDeferred(
                    column(messages, message -> message.id().value(), UUID[]::new),
                    column(messages, message -> message.id().received(), Instant[]::new));
            List<StoredMessage> now = messages.stream()
                    .filter(message -> still.contains(message.id().value()))
                    .toList();
            if (now.isEmpty()) {
                return still;
            }
            mappers.messages.update(MessageColumns.of(now));
            List<Remembered.Row> rows = remembered.stream()
                    .filter(row -> still.contains(row.message().value()))
                    .toList();
            if (!rows.isEmpty()) {
                mappers.remembered.insert(Remembered.Columns.of(rows));
            }
            List<Delivery.Owed> due = owed.stream()
                    .filter(one -> still.contains(one.message().value()))
                    .toList();
            if (!due.isEmpty()) {
                insert(due, new UUID[due.size()], node.joins());
            }
            return still;
        });
    }

    /**
     * What a lane made of others, and what it owes for that; within the caller's transaction.
     *
     * @param dead what it owes and cannot let go
     */
    public void make(List<StoredMessage> made, List<Delivery.Owed> owed, List<Delivery.Owed> dead, String cause) {
        if (!made.isEmpty()) {
            days.ensure(made.stream().map(one -> one.id().received()).toList());
            mappers.messages.insert(MessageColumns.of(made));
        }
        if (!dead.isEmpty()) {
            mappers.outcomes.insertDead(
                    OwedColumns.of(dead),
                    Collections.nCopies(dead.size(), cause).toArray(String[]::new),
                    clock.instant());
        }
        owe(owed);
    }

    /** A message that was made of others, with what it gives rise to; within the caller's transaction. */
    public void keepMade(StoredMessage made, List<Remembered> remembered, List<Delivery.Owed> owed) {
        mappers.messages.insert(MessageColumns.of(List.of(made)));
        if (!remembered.isEmpty()) {
            mappers.remembered.insert(Remembered.Columns.of(
                    remembered.stream().map(one -> one.of(made.id())).toList()));
        }
        owe(owed);
    }

    /** Deliveries of messages that are kept already; nobody's, to be claimed when they are due. */
    public void owe(List<Delivery.Owed> owed) {
        if (!owed.isEmpty()) {
            transaction.execute(() -> {
                insert(owed, new UUID[owed.size()], node.joins());
                UUID[] late = owed.stream()
                        .filter(one -> one.part().late())
                        .map(Delivery.Owed::id)
                        .toArray(UUID[]::new);
                if (late.length > 0) {
                    mappers.owed.markLate(late);
                }
                return null;
            });
        }
    }

    /** An attempt that a person made to see what comes back; it settles nothing. */
    public void addTrial(AttemptRow attempt) {
        mappers.outcomes.insertAttempts(AttemptColumns.of(List.of(attempt)));
    }

    /** What a person pasted for a trial. */
    public void addPasted(StoredMessage message) {
        mappers.messages.insert(MessageColumns.of(List.of(message)));
    }

    public Optional<StoredMessage> find(MessageId id) {
        return mappers.messages.find(id.received(), id.value()).map(MessageRow::message);
    }

    /** Of these messages, those that are kept. A database that hangs is not waited for. */
    public Set<UUID> existing(List<MessageId> ids) {
        return transaction.execute(() -> mappers.messages.existing(ids));
    }

    /** Those of these messages that are there. */
    public List<StoredMessage> find(List<MessageId> ids) {
        return ids.isEmpty()
                ? List.of()
                : mappers
                        .messages
                        .findAll(
                                column(ids, MessageId::received, Instant[]::new),
                                column(ids, MessageId::value, UUID[]::new))
                        .stream()
                        .map(MessageRow::message)
                        .toList();
    }

    private List<Kept> writeEntries(List<Entry> group) {
        if (isAway()) {
            throw new JournalUnavailable("the database is away", null);
        }
        List<Kept> kept;
        try {
            kept = transaction.execute(() -> insert(group));
        } catch (DataAccessException | TransactionException e) {
            if (!JournalUnavailable.isOfTheData(e)) {
                database.away(e);
                group.forEach(entry -> entry.owed().forEach(one -> uncertain.add(one.id(), one)));
            }
            throw e;
        }
        for (int i = 0; i < kept.size(); i++) {
            if (kept.get(i).duplicateOf == null) {
                StoredMessage message = group.get(i).message();
                tell(listener -> listener.kept(message));
            }
        }
        return kept;
    }

    /** What is committed is so, whatever becomes of those who are told: a failure of theirs must not look like one of the commit. */
    private void tell(Consumer<JournalListener> news) {
        for (JournalListener listener : listeners.get()) {
            try {
                news.accept(listener);
            } catch (RuntimeException e) {
                log.error(
                        "{} failed at news of what was committed",
                        listener.getClass().getSimpleName(),
                        e);
            }
        }
    }

    private List<Kept> insert(List<Entry> group) {
        Map<UUID, UUID> duplicates =
                mappers.keys.note(group.stream().map(Entry::message).toList());
        if (node.hasCompany()) {
            duplicates = new HashMap<>(duplicates);
            duplicates.putAll(duplicatesOfOthers(group));
        }
        List<Entry> entries = withoutDuplicates(group, duplicates);
        mappers.messages.insert(
                MessageColumns.of(entries.stream().map(Entry::message).toList()));
        List<Delivery.Owed> owed = new ArrayList<>();
        List<UUID> owners = new ArrayList<>();
        long joins = Long.MAX_VALUE;
        for (Entry entry : entries) {
            joins = Math.min(joins, entry.hold.standing.joins());
            for (Delivery.Owed one : entry.owed()) {
                owed.add(one);
                owners.add(entry.hold.deliveries.contains(one.id()) ? entry.hold.standing.id() : null);
            }
        }
        remember(entries);
        move(entries.stream().map(Entry::cursor).filter(Objects::nonNull).toList());
        Set<UUID> notMine = owed.isEmpty() ? Set.of() : insert(owed, owners.toArray(UUID[]::new), joins);
        List<Kept> kept = new ArrayList<>(group.size());
        for (Entry entry : entries) {
            UUID duplicateOf = duplicates.get(entry.message.id().value());
            kept.add(duplicateOf == null ? kept(entry.hold.deliveries, notMine) : new Kept(Set.of(), duplicateOf));
        }
        return kept;
    }

    private void remember(List<Entry> entries) {
        List<Remembered.Row> rows = entries.stream()
                .flatMap(entry -> entry.remembered.stream().map(one -> one.of(entry.message.id())))
                .toList();
        if (!rows.isEmpty()) {
            mappers.remembered.insert(Remembered.Columns.of(rows));
        }
    }

    private void move(List<Cursor> cursors) {
        cursors.forEach(cursor -> mappers.cursors.move(cursor, clock.instant()));
    }

    /** How far an inlet has read; empty before its first page. */
    public String cursor(String inlet) {
        return Optional.ofNullable(mappers.cursors.find(inlet)).orElse("");
    }

    /** A page had no message in it. */
    public void move(Cursor cursor) {
        transaction.execute(() -> {
            move(List.of(cursor));
            return null;
        });
    }

    private static Kept kept(Set<UUID> wanted, Set<UUID> notMine) {
        if (wanted.isEmpty()) {
            return Kept.NOTHING_TO_SEND;
        }
        if (notMine.isEmpty()) {
            return new Kept(wanted, null);
        }
        Set<UUID> mine = new HashSet<>(wanted);
        mine.removeAll(notMine);
        return new Kept(mine, null);
    }

    /** @return of the deliveries with an order key, those this node does not own */
    private Set<UUID> insert(List<Delivery.Owed> owed, UUID[] owners, long joins) {
        if (owed.stream().allMatch(one -> one.orderKey() == null)) {
            mappers.owed.insert(OwedColumns.of(owed), owners);
            return Set.of();
        }
        mappers.owed.lockOrder();
        return mappers.owed.insertOrdered(OwedColumns.of(owed), owners, node.id(), joins);
    }

    /** Of these messages, those of which another node took one like it before; with the id of that one. */
    private Map<UUID, UUID> duplicatesOfOthers(List<Entry> group) {
        List<Entry> candidates = group.stream()
                .filter(entry -> entry.duplicatesSince != null && entry.message.duplicateOf() == null)
                .toList();
        if (candidates.isEmpty()) {
            return Map.of();
        }
        mappers.owed.lockOrder();
        return mappers
                .messages
                .duplicatesAmong(
                        column(candidates, entry -> entry.message.id().value(), UUID[]::new),
                        column(candidates, entry -> entry.message.arrival().inlet(), String[]::new),
                        column(candidates, entry -> entry.message.device(), String[]::new),
                        column(candidates, entry -> entry.message.duplicateKey(), String[]::new),
                        column(candidates, Entry::duplicatesSince, Instant[]::new))
                .stream()
                .collect(Collectors.toMap(
                        MessageMapper.Duplicate::id, MessageMapper.Duplicate::duplicateOf, (a, b) -> a));
    }

    private static List<Entry> withoutDuplicates(List<Entry> group, Map<UUID, UUID> duplicates) {
        if (duplicates.isEmpty()) {
            return group;
        }
        return group.stream()
                .map(entry -> {
                    UUID duplicateOf = duplicates.get(entry.message.id().value());
                    return duplicateOf == null
                            ? entry
                            : new Entry(
                                    entry.message.asDuplicateOf(duplicateOf),
                                    List.of(),
                                    List.of(),
                                    entry.hold,
                                    null,
                                    entry.cursor);
                })
                .toList();
    }

    private List<Void> writeSettlements(List<Settlement.By> group) {
        boolean again = false;
        while (true) {
            boolean known = again;
            try {
                transaction.execute(() -> write(group, known));
                group.forEach(one -> tell(listener -> listener.settled(one.settlement())));
                return Collections.nCopies(group.size(), null);
            } catch (DataAccessException | TransactionException e) {
                if (JournalUnavailable.isOfTheData(e)) {
                    throw e;
                }
                if (!again && !isAway()) {
                    log.warn(
                            "{} settlements wait for the database: {}",
                            group.size(),
                            NestedExceptionUtils.getMostSpecificCause(e).getMessage());
                }
                if (!pause()) {
                    throw e;
                }
                again = true;
            }
        }
    }

    private boolean pause() {
        try {
            Thread.sleep(PAUSE_WHILE_AWAY_MILLIS);
            return !closing;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /**
     * @param again whether this was tried before, and may have been written though no answer came
     * @return true, since it was written
     */
    private boolean write(List<Settlement.By> group, boolean again) {
        List<AttemptRow> attempts = new ArrayList<>();
        List<Settlement.By> ended = new ArrayList<>();
        List<Settlement.By> waiting = new ArrayList<>();
        for (Settlement.By one : group) {
            Settlement settlement = one.settlement();
            if (settlement.attempt() != null) {
                attempts.add(settlement.attempt());
            }
            if (settlement.fate() == Settlement.Kind.WAITING) {
                waiting.add(one);
            } else if (settlement.fate() != Settlement.Kind.TRIED) {
                ended.add(one);
            }
        }
        if (again && !attempts.isEmpty()) {
            attempts.removeAll(known(attempts));
        }
        if (!attempts.isEmpty()) {
            mappers.outcomes.insertAttempts(AttemptColumns.of(attempts));
        }
        if (!waiting.isEmpty()) {
            mappers.owed.postpone(
                    OwedColumns.of(
                            waiting.stream().map(one -> one.settlement().owed()).toList()),
                    column(waiting, Settlement.By::owner, UUID[]::new));
        }
        if (!ended.isEmpty()) {
            end(ended);
        }
        return true;
    }

    private List<AttemptRow> known(List<AttemptRow> attempts) {
        Set<OutcomeMapper.Numbered> known = mappers.outcomes.numbers(
                column(attempts, AttemptRow::message, UUID[]::new),
                column(attempts, AttemptRow::delivery, UUID[]::new));
        return attempts.stream()
                .filter(attempt -> known.contains(new OutcomeMapper.Numbered(attempt.delivery(), attempt.number())))
                .toList();
    }

    /** Exactly one fate each: only what was still owed, and by whom it is said to be, gets one here. */
    private void end(List<Settlement.By> ended) {
        // One that this node gave up, and took again under its new id, may be settled twice in the same group.
        Set<UUID> gone = new HashSet<>(mappers.owed.settle(
                column(ended, one -> one.settlement().owed().id(), UUID[]::new),
                column(ended, Settlement.By::owner, UUID[]::new)));
        List<Delivery.Owed> delivered = new ArrayList<>();
        List<Delivery.Owed> dead = new ArrayList<>();
        List<String> causes = new ArrayList<>();
        for (Settlement.By one : ended) {
            Settlement settlement = one.settlement();
            if (!gone.remove(settlement.owed().id())) {
                log.warn(
                        "Delivery {} was settled elsewhere meanwhile",
                        settlement.owed().id());
            } else if (settlement.fate() == Settlement.Kind.DELIVERED) {
                delivered.add(settlement.owed());
            } else {
                dead.add(settlement.owed());
                causes.add(settlement.cause());
            }
        }
        if (!delivered.isEmpty()) {
            mappers.outcomes.insertDelivered(OwedColumns.of(delivered), clock.instant());
        }
        if (!dead.isEmpty()) {
            mappers.outcomes.insertDead(OwedColumns.of(dead), causes.toArray(String[]::new), clock.instant());
        }
    }

    private volatile boolean closing;

    /** Writes what is queued, as long as the database is there, then ends. */
    @Override
    public void close() {
        closing = true;
        entries.close();
        settlements.close();
    }
}
