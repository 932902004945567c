package org.holtra.service.journal;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.journal.sql.ClaimedRow;
import org.holtra.service.journal.sql.MessageMapper;
import org.holtra.service.journal.sql.OwedMapper;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** What waits in the table of owed deliveries, and how a node takes it into its hands. */
@Component
public class Backlog {

    /** So many order keys are looked at in one statement. */
    private static final int HEADS = 1_000;

    /**
     * What was claimed of a part of a lane's order keys.
     *
     * @param claimed in the order they are to be sent, one order key after the other
     * @param waiting order keys of which something stays in the table
     * @param nextDue when an order key that nobody has in hand may be tried; null if there is none
     * @param last the last order key looked at, to go on after it; null if there are no more
     */
    public record Ordered(List<Delivery> claimed, Set<String> waiting, Instant nextDue, String last) {}

    /**
     * By what a node takes deliveries into its hands.
     *
     * @param owner the node's id when it decided to
     * @param look names this one time
     */
    public record Claim(UUID owner, UUID look) {}

    /**
     * How much a look may take into its hands.
     *
     * @param bytes of messages; one that is larger is taken all the same if it is the first
     */
    public record Room(int deliveries, long bytes) {

        private static final long BYTES = 16 << 20;

        public static Room of(int deliveries) {
            return new Room(deliveries, BYTES);
        }

        public boolean isUsedUp() {
            return deliveries <= 0 || bytes <= 0;
        }

        public Room without(Collection<Delivery> taken) {
            long size = taken.stream()
                    .mapToLong(one -> one.message().arrival().body().length)
                    .sum();
            return new Room(deliveries - taken.size(), bytes - size);
        }
    }

    private static final Instant KEEPS_ITS_TIME = Instant.parse("9999-01-01T00:00:00Z");

    private static final Logger log = LoggerFactory.getLogger(Backlog.class);

    private final Journal.Mappers mappers;
    private final UncertainWrites<UUID> uncertain = new UncertainWrites<>();

    Backlog(Journal.Mappers mappers) {
        this.mappers = mappers;
    }

    /**
     * Claims deliveries of an outlet that are due and have no order key, the longest due first.
     *
     * @param since what was due before is not looked for
     * @param closed lanes whose deliveries stay
     */
    public List<Delivery> claim(
            Claim claim, String outlet, Instant since, Instant until, Room room, Collection<String> closed) {
        List<ClaimedRow> rows = mappers.owed()
                .claim(claim.owner, claim.look, outlet, since, until, room.deliveries, closed.toArray(String[]::new));
        return withMessages(within(room, rows, claim));
    }

    /** When the next delivery of an outlet that has no order key and is nobody's is due; empty if there is none. */
    public Optional<Instant> nextDue(String outlet, Collection<String> closed) {
        return Optional.ofNullable(mappers.owed().nextDue(outlet, closed.toArray(String[]::new)));
    }

    /**
     * Goes through the order keys of a lane and claims from those whose first delivery is due.
     *
     * @param after the order key to go on after; empty to begin
     * @param until what is due by then
     */
    public Ordered claimOrdered(Claim claim, String lane, String after, Instant until, Room room) {
        int limit = room.deliveries;
        List<OwedMapper.Head> heads = mappers.owed().heads(lane, after, HEADS);
        Set<String> waiting = new HashSet<>();
        List<OwedMapper.Head> chosen = new ArrayList<>();
        Instant nextDue = null;
        String last = heads.size() < HEADS ? null : heads.getLast().orderKey();
        for (OwedMapper.Head head : heads) {
            if (head.owned()) {
                waiting.add(head.orderKey());
            } else if (head.due().isAfter(until)) {
                waiting.add(head.orderKey());
                nextDue = nextDue == null || head.due().isBefore(nextDue) ? head.due() : nextDue;
            } else if (chosen.size() < limit) {
                chosen.add(head);
                if (chosen.size() == limit) {
                    last = head.orderKey();
                    break;
                }
            }
        }
        List<Delivery> claimed = chosen.isEmpty() ? List.of() : take(claim, lane, chosen, room, waiting);
        return new Ordered(claimed, waiting, nextDue, last);
    }

    /** A look came to nothing, and what it claimed is in nobody's hands; should any of it turn up, it is nobody's. */
    public void doubt(Claim claim) {
        uncertain.add(claim.look, claim.look);
    }

    /** Sets free what looks claimed that came to nothing; says for which outlets. */
    public List<String> settleDoubts(Instant now) {
        Set<UUID> open = uncertain.open();
        if (open.isEmpty()) {
            return List.of();
        }
        // A look claims by several statements, of which a later one may still be under way: all are looked for to the
        // end.
        List<OwedMapper.Freed> freed = mappers.owed().freeClaims(open.toArray(UUID[]::new));
        uncertain.lookedFor(open, Set.of(), now);
        return freed.stream().map(OwedMapper.Freed::outlet).distinct().toList();
    }

    private List<Delivery> take(
            Claim claim, String lane, List<OwedMapper.Head> chosen, Room room, Set<String> waiting) {
        UUID[] ids = column(chosen, OwedMapper.Head::id, UUID[]::new);
        int each = Math.max(1, room.deliveries / chosen.size());
        List<ClaimedRow> rows = within(room, mappers.owed().claimOrdered(claim.owner, claim.look, ids, each), claim);
        Map<String, Long> sequences = new LinkedHashMap<>();
        chosen.forEach(head -> sequences.put(head.orderKey(), -1L));
        rows.forEach(row -> sequences.put(row.orderKey(), row.sequence()));
        waiting.addAll(mappers.owed()
                .longer(
                        lane,
                        sequences.keySet().toArray(String[]::new),
                        sequences.values().toArray(Long[]::new)));
        return withMessages(rows);
    }

    /** The first of what was claimed, as much as there is room for; the rest is nobody's again. */
    private List<ClaimedRow> within(Room room, List<ClaimedRow> rows, Claim claim) {
        if (rows.size() < 2) {
            return rows;
        }
        Map<UUID, Long> sizes = mappers
                .messages()
                .sizes(
                        column(rows, ClaimedRow::received, Instant[]::new),
                        column(rows, ClaimedRow::message, UUID[]::new))
                .stream()
                .collect(Collectors.toMap(MessageMapper.Size::id, MessageMapper.Size::bytes, (a, b) -> a));
        int fit = 0;
        long bytes = 0;
        while (fit < rows.size() && bytes < room.bytes) {
            bytes += sizes.getOrDefault(rows.get(fit).message(), 0L);
            fit++;
        }
        if (fit < rows.size()) {
            mappers.owed()
                    .free(
                            column(rows.subList(fit, rows.size()), ClaimedRow::id, UUID[]::new),
                            claim.owner,
                            KEEPS_ITS_TIME);
        }
        return rows.subList(0, fit);
    }

    private List<Delivery> withMessages(List<ClaimedRow> rows) {
        if (rows.isEmpty()) {
            return List.of();
        }
        Map<UUID, StoredMessage> messages = new HashMap<>();
        mappers.messages()
                .findAll(
                        column(rows, ClaimedRow::received, Instant[]::new),
                        column(rows, ClaimedRow::message, UUID[]::new))
                .forEach(row -> messages.computeIfAbsent(row.id(), id -> row.message()));
        List<Delivery> deliveries = new ArrayList<>();
        for (ClaimedRow row : rows) {
            if (messages.containsKey(row.message())) {
                deliveries.add(row.of(messages.get(row.message())));
            } else {
                log.error("Delivery {} is owed for message {}, which is not there", row.id(), row.message());
            }
        }
        return deliveries;
    }
}
