package org.holtra.service.history;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.journal.sql.MessageRow;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** Messages and deliveries of the past, as they are searched and listed. */
@Component
public class Records {

    /** A lane that takes one of a hundred messages has a page among so many. */
    private static final int LATEST = 20_000;

    /** Bodies are searched without an index, some hundred thousand a second. */
    static final int SEARCHED = 100_000;

    private static final int DUPLICATES = 50;

    private final MessageHistoryMapper messages;
    private final DeliveryHistoryMapper deliveries;
    private final Journal journal;
    private final TransactionTemplate transaction;

    Records(
            MessageHistoryMapper messages,
            DeliveryHistoryMapper deliveries,
            Journal journal,
            TransactionTemplate transaction) {
        this.transaction = transaction;
        this.messages = messages;
        this.deliveries = deliveries;
        this.journal = journal;
    }

    /** The newest first. A search by content looks at the latest {@value #SEARCHED} messages of its span. */
    public MessagePage messages(MessageQuery query) {
        boolean byLane = query.lane() != null
                && !StoredMessage.WAITING.equals(query.state())
                && !StoredMessage.DEAD.equals(query.state());
        if (query.contains() != null) {
            return page(query.limit(), room -> messages.amongLatest(query, SEARCHED, room));
        }
        return byLane ? ofLane(query) : page(query.limit(), room -> messages.list(query, room));
    }

    /**
     * What a lane took. A busy lane has a page of it among the latest messages, which are looked at first. Of a quiet one
     * nobody knows how far back it lies: it is looked for by an index of lanes, in stretches that grow longer.
     */
    private MessagePage ofLane(MessageQuery query) {
        MessagePage latest = page(query.limit(), room -> messages.amongLatest(query, LATEST, room));
        return latest.more() ? latest : page(query.limit(), room -> ofLane(query, room));
    }

    private void ofLane(MessageQuery query, PageRoom room) {
        Instant to = query.to();
        if (query.before() != null && query.beforeReceived().isBefore(to)) {
            to = query.beforeReceived().plusMillis(1);
        }
        Duration stretch = Duration.ofDays(1);
        while (to.isAfter(query.from()) && !room.isFull()) {
            Instant from = to.minus(stretch).isBefore(query.from()) ? query.from() : to.minus(stretch);
            messages.ofLane(query.within(from, to, room.left()), room);
            to = from;
            stretch = stretch.multipliedBy(4);
        }
    }

    /** Rows come as they are taken in only within a transaction; without one the driver fetches all of them first. */
    private MessagePage page(int limit, Consumer<PageRoom> query) {
        PageRoom room = new PageRoom(limit);
        transaction.executeWithoutResult(status -> query.accept(room));
        return room.page();
    }

    /** Where the deliveries of these messages stand, by message. */
    public Map<UUID, List<LaneState>> states(List<MessageId> ids) {
        if (ids.isEmpty()) {
            return Map.of();
        }
        Instant from =
                ids.stream().map(MessageId::received).min(Instant::compareTo).orElseThrow();
        Instant to =
                ids.stream().map(MessageId::received).max(Instant::compareTo).orElseThrow();
        return deliveries.states(ids.stream().map(MessageId::value).toArray(UUID[]::new), from, to).stream()
                .collect(Collectors.groupingBy(LaneState::message));
    }

    /** What a message was made of, in the order it came; at most a hundred. */
    public List<String> madeOf(StoredMessage made) {
        return made.duplicateOf() != null
                ? List.of(made.duplicateOf().toString())
                : deliveries.mergedInto(made.id().value());
    }

    /** What lanes split a message into; at most a thousand. */
    public List<String> splitInto(MessageId id) {
        return messages.splitInto(id.value(), id.received());
    }

    /** Duplicates of a message, in the order they came; the first {@value #DUPLICATES}. */
    public List<StoredMessage> duplicates(MessageId id, Duration within) {
        Instant until = id.received().plus(within);
        return page(DUPLICATES, room -> messages.duplicates(id.value(), id.received(), until, DUPLICATES, room))
                .messages();
    }

    /**
     * A message that may still be followed by duplicates.
     *
     * @param device null if it is of none
     * @param key what its duplicates have in common
     */
    public record First(UUID id, String inlet, String device, String key) {}

    /** The first of each message that came since and may have duplicates. */
    public List<First> firsts(Instant since) {
        return messages.firsts(since);
    }

    /**
     * Messages that wait to be read for the same reason.
     *
     * @param oldest when the first of them came
     */
    public record Deferred(String reason, long messages, Instant oldest) {}

    /** What waits to be read, by reason; no more than a bounded number is counted. */
    public List<Deferred> deferredReasons(int most) {
        return messages.deferredReasons(most);
    }

    /** Whose messages wait to be read, once for each message: devices; {@code inlet NAME} for those of none. */
    public List<String> deferred(int most) {
        return messages.deferredOf(most);
    }

    /** Messages that wait to be read, in the order they came, but for those of some devices or inlets. */
    public MessagePage deferred(Collection<String> without, int limit) {
        return page(limit, room -> messages.deferred(without.toArray(String[]::new), limit, room));
    }

    /** Messages in the order they came, from one on. */
    public MessagePage after(MessageId id, Instant until, int limit) {
        return after(id, until, null, null, limit);
    }

    /**
     * The same of one device or of some inlets.
     *
     * @param device null for any
     * @param inlets null for all
     */
    public MessagePage after(MessageId id, Instant until, String device, Collection<String> inlets, int limit) {
        String[] among = inlets == null ? null : inlets.toArray(String[]::new);
        return page(limit, room -> messages.after(id.received(), id.value(), until, device, among, limit, room));
    }

    /** The newest read messages of some inlets, the newest first. */
    public List<StoredMessage> last(Set<String> inlets, int limit) {
        return page(limit, room -> messages.last(inlets.toArray(String[]::new), limit, room))
                .messages();
    }

    /** Read messages of some inlets in the order they came, after one. */
    public MessagePage readAfter(Set<String> inlets, MessageId id, Instant until, int limit) {
        return readAfter(inlets, null, id, until, limit);
    }

    /** What a lane took and what it made of that, in the order it came, after one. */
    public MessagePage readAfter(Lane lane, MessageId id, Instant until, int limit) {
        Set<String> inlets = new HashSet<>(lane.inlets());
        if (lane.memory() != null) {
            inlets.add(Setup.OWN_INLET);
        }
        return readAfter(inlets, lane.name(), id, until, limit);
    }

    private MessagePage readAfter(Set<String> inlets, String lane, MessageId id, Instant until, int limit) {
        String[] among = inlets.toArray(String[]::new);
        return page(limit, room -> messages.readAfter(among, id.received(), id.value(), until, lane, limit, room));
    }

    /** Of these messages, those that are there. */
    public Set<UUID> existing(List<MessageId> ids) {
        return journal.existing(ids);
    }

    /** How many messages a lane made within a span. */
    public long countMade(String lane, Instant from, Instant until) {
        return messages.countMade(lane, from, until);
    }

    /** The last so many read messages of some inlets within a span. */
    public Stretch stretch(Set<String> inlets, Instant from, Instant until, long most) {
        return messages.stretch(inlets.toArray(String[]::new), from, until, most);
    }

    public List<Jump> jumps(String device, String inlet, Instant from, Instant to) {
        return messages.jumps(device, inlet, from, to);
    }

    public List<AttemptRow> attempts(MessageId id) {
        return deliveries.attempts(id.received(), id.value());
    }

    /** The messages that an arrival was taken apart into, in their order. */
    public List<StoredMessage> parts(MessageId whole) {
        return messages.parts(whole.value(), whole.received()).stream()
                .map(MessageRow::message)
                .sorted(Comparator.comparingDouble(Records::number))
                .toList();
    }

    private static double number(StoredMessage part) {
        return part.arrival().transport().fields().get("part") instanceof Number number ? number.doubleValue() : 0;
    }

    /** The newest first. */
    public List<DeadLetter> dead(DeadQuery query) {
        return deliveries.deadLetters(query);
    }
}
