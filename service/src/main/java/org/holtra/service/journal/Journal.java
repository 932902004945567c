package org.holtra.service.journal;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.MessageId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/** The durable store of messages, deliveries and outcomes: where they are written. */
@Component
public class Journal implements AutoCloseable {

    /**
     * A message, with the deliveries it gives rise to.
     *
     * @param mine of these deliveries, those this node dispatches from memory; the others are claimed from the table
     */
    public record Entry(StoredMessage message, List<Delivery.Owed> owed, Set<UUID> mine) {}

    private static final int MOST_WAITING = 10_000;
    private static final int LARGEST_GROUP = 500;
    private static final long PAUSE_WHILE_AWAY_MILLIS = 500;
    private static final Logger log = LoggerFactory.getLogger(Journal.class);

    private final Mappers mappers;
    private final TransactionTemplate transaction;
    private final Node node;
    private final InstantSource clock;
    private final ObjectProvider<JournalListener> listeners;
    private final GroupCommit<Entry> entries;
    private final GroupCommit<Settlement> settlements;

    /** The statements the journal writes with. */
    @Component
    record Mappers(MessageMapper messages, OwedMapper owed, OutcomeMapper outcomes, DeadLetterMapper dead) {}

    Journal(
            Mappers mappers,
            TransactionTemplate transaction,
            Node node,
            InstantSource clock,
            ObjectProvider<JournalListener> listeners) {
        this.mappers = mappers;
        this.transaction = transaction;
        this.node = node;
        this.clock = clock;
        this.listeners = listeners;
        this.entries = new GroupCommit<>("journal-entries", MOST_WAITING, LARGEST_GROUP, this::writeEntries);
        this.settlements =
                new GroupCommit<>("journal-settlements", MOST_WAITING, LARGEST_GROUP, this::writeSettlements);
    }

    /**
     * Completed once the entry is durable, or exceptionally if it is not.
     *
     * @throws JournalUnavailable if too much waits to be written already
     */
    public CompletableFuture<Void> append(Entry entry) {
        return entries.submit(entry);
    }

    /**
     * Completed once the settlement is durable. While the database is away it waits: the delivery has been attempted, and
     * forgetting that would send it twice.
     */
    public CompletableFuture<Void> settle(Settlement settlement) throws InterruptedException {
        return settlements.submitPatiently(settlement);
    }

    /** Messages read again, and what they are owed for that, in one transaction. */
    public void reread(List<StoredMessage> messages, List<Delivery.Owed> owed) {
        transaction.executeWithoutResult(status -> {
            mappers.messages.update(MessageColumns.of(messages));
            if (!owed.isEmpty()) {
                mappers.owed.insert(OwedColumns.of(owed), new UUID[owed.size()]);
            }
        });
    }

    public Optional<StoredMessage> find(MessageId id) {
        return mappers.messages.find(id.received(), id.value()).map(MessageRow::message);
    }

    /**
     * Claims up to so many deliveries of an outlet that are due, for this node.
     *
     * @param closed lanes whose deliveries stay
     */
    public List<Delivery> claim(String outlet, Instant until, int limit, Collection<String> closed) {
        return mappers.owed.claim(node.id(), outlet, until, limit, closed.toArray(String[]::new)).stream()
                .map(ClaimedRow::delivery)
                .toList();
    }

    /** When the next delivery of an outlet that nobody owns is due, closed lanes apart; empty if there is none. */
    public Optional<Instant> nextDue(String outlet, Collection<String> closed) {
        return Optional.ofNullable(mappers.owed.nextDue(outlet, closed.toArray(String[]::new)));
    }

    private void writeEntries(List<Entry> group) {
        List<StoredMessage> messages = group.stream().map(Entry::message).toList();
        List<Delivery.Owed> owed = new ArrayList<>();
        List<UUID> owners = new ArrayList<>();
        for (Entry entry : group) {
            for (Delivery.Owed one : entry.owed()) {
                owed.add(one);
                owners.add(entry.mine().contains(one.id()) ? node.id() : null);
            }
        }
        transaction.executeWithoutResult(status -> {
            mappers.messages.insert(MessageColumns.of(messages));
            if (!owed.isEmpty()) {
                mappers.owed.insert(OwedColumns.of(owed), owners.toArray(UUID[]::new));
            }
        });
        messages.forEach(message -> listeners.forEach(listener -> listener.kept(message)));
    }

    private void writeSettlements(List<Settlement> group) {
        while (true) {
            try {
                transaction.executeWithoutResult(status -> write(group));
                group.forEach(settlement -> listeners.forEach(listener -> listener.settled(settlement)));
                return;
            } catch (DataAccessException | TransactionException e) {
                if (JournalUnavailable.isOfTheData(e)) {
                    throw e;
                }
                log.warn("{} settlements wait for the database: {}", group.size(), e.getMessage());
                if (!pause()) {
                    throw e;
                }
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

    private void write(List<Settlement> group) {
        List<AttemptRow> attempts = new ArrayList<>();
        List<Settlement> ended = new ArrayList<>();
        List<Delivery.Owed> waiting = new ArrayList<>();
        for (Settlement settlement : group) {
            if (settlement.attempt() != null) {
                attempts.add(settlement.attempt());
            }
            if (settlement.fate() == Settlement.Kind.WAITING) {
                waiting.add(settlement.owed());
            } else {
                ended.add(settlement);
            }
        }
        if (!attempts.isEmpty()) {
            mappers.outcomes.insertAttempts(AttemptColumns.of(attempts));
        }
        if (!waiting.isEmpty()) {
            mappers.owed.postpone(OwedColumns.of(waiting), node.id());
        }
        if (!ended.isEmpty()) {
            end(ended);
        }
    }

    /** Exactly one fate each: only what was still owed, and by this node, gets one here. */
    private void end(List<Settlement> ended) {
        UUID[] ids = ended.stream().map(settlement -> settlement.owed().id()).toArray(UUID[]::new);
        Set<UUID> gone = mappers.owed.settle(ids, node.id());
        List<Delivery.Owed> delivered = new ArrayList<>();
        List<Delivery.Owed> dead = new ArrayList<>();
        List<String> causes = new ArrayList<>();
        for (Settlement settlement : ended) {
            if (!gone.contains(settlement.owed().id())) {
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
