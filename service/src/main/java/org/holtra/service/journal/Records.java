package org.holtra.service.journal;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.database.CachedValue;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The durable store of messages, deliveries and outcomes: where they are looked up, and what people do to them. */
@Component
public class Records {

    /** A lane that takes one of a hundred messages has a page among so many. */
    private static final int LATEST = 20_000;

    private final Journal.Mappers mappers;
    private final InstantSource clock;

    private final CachedValue<List<LaneDebt>> debts;

    Records(Journal.Mappers mappers, InstantSource clock) {
        this.mappers = mappers;
        this.clock = clock;
        this.debts = new CachedValue<>(this::debtsNow, System::nanoTime);
    }

    public List<StoredMessage> messages(MessageQuery query) {
        boolean byLane = query.lane() != null
                && !StoredMessage.WAITING.equals(query.state())
                && !StoredMessage.DEAD.equals(query.state());
        return stored(byLane ? ofLane(query) : mappers.messages().list(query));
    }

    /**
     * What a lane took. A busy lane has a page of it among the latest messages, which are looked at first. Of a quiet one
     * nobody knows how far back it lies: it is looked for by an index of lanes, in stretches that grow longer.
     */
    private List<MessageRow> ofLane(MessageQuery query) {
        List<MessageRow> latest = mappers.messages().ofLaneAmongLatest(query, LATEST);
        if (latest.size() >= query.limit()) {
            return latest;
        }
        List<MessageRow> found = new ArrayList<>();
        Instant to = query.to();
        if (query.before() != null && query.beforeReceived().isBefore(to)) {
            to = query.beforeReceived().plusMillis(1);
        }
        Duration stretch = Duration.ofDays(1);
        while (to.isAfter(query.from()) && found.size() < query.limit()) {
            Instant from = to.minus(stretch).isBefore(query.from()) ? query.from() : to.minus(stretch);
            found.addAll(mappers.messages().ofLane(query.within(from, to, query.limit() - found.size())));
            to = from;
            stretch = stretch.multipliedBy(4);
        }
        return found;
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
        return mappers.messages().states(ids.stream().map(MessageId::value).toArray(UUID[]::new), from, to).stream()
                .collect(Collectors.groupingBy(LaneState::message));
    }

    /** What a message was made of, in the order it came; at most a hundred. */
    public List<String> madeOf(StoredMessage made) {
        return made.duplicateOf() != null
                ? List.of(made.duplicateOf().toString())
                : mappers.outcomes().mergedInto(made.id().value());
    }

    /** What lanes split a message into; at most a thousand. */
    public List<String> splitInto(MessageId id) {
        return mappers.messages().splitInto(id.value(), id.received());
    }

    /** Duplicates of a message, in the order they came; at most fifty. */
    public List<StoredMessage> duplicates(MessageId id, Duration within) {
        return stored(mappers.messages()
                .duplicates(id.value(), id.received(), id.received().plus(within)));
    }

    /** The first of each message that came since and may have duplicates. */
    public List<StoredMessage> firsts(Instant since) {
        return stored(mappers.messages().firsts(since));
    }

    /**
     * Messages that wait to be read for the same reason.
     *
     * @param oldest when the first of them came
     */
    public record Deferred(String reason, long messages, Instant oldest) {}

    /** What waits to be read, by reason; no more than a bounded number is counted. */
    public List<Deferred> deferredReasons(int most) {
        return mappers.messages().deferredReasons(most);
    }

    /** Whose messages wait to be read, once for each message: devices; {@code inlet NAME} for those of none. */
    public List<String> deferred(int most) {
        return mappers.messages().deferredOf(most);
    }

    /** Messages that wait to be read, in the order they came, but for those of some devices or inlets. */
    public List<StoredMessage> deferred(Collection<String> without, int limit) {
        return stored(mappers.messages().deferred(without.toArray(String[]::new), limit));
    }

    /** Messages in the order they came, from one on. */
    public List<StoredMessage> after(MessageId id, Instant until, int limit) {
        return stored(mappers.messages().after(id.received(), id.value(), until, null, null, limit));
    }

    /**
     * The same of one device or of some inlets.
     *
     * @param device null for any
     * @param inlets null for all
     */
    public List<StoredMessage> after(MessageId id, Instant until, String device, Collection<String> inlets, int limit) {
        return stored(mappers.messages()
                .after(
                        id.received(),
                        id.value(),
                        until,
                        device,
                        inlets == null ? null : inlets.toArray(String[]::new),
                        limit));
    }

    /** The newest read messages of some inlets, the newest first. */
    public List<StoredMessage> last(Set<String> inlets, int limit) {
        return stored(mappers.messages().last(inlets.toArray(String[]::new), limit));
    }

    /** Read messages of some inlets in the order they came, after one. */
    public List<StoredMessage> readAfter(Set<String> inlets, MessageId id, Instant until, int limit) {
        return stored(mappers.messages()
                .readAfter(inlets.toArray(String[]::new), id.received(), id.value(), until, null, limit));
    }

    /** What a lane took and what it made of that, in the order it came, after one. */
    public List<StoredMessage> readAfter(Lane lane, MessageId id, Instant until, int limit) {
        Set<String> inlets = new HashSet<>(lane.inlets());
        if (lane.memory() != null) {
            inlets.add(Setup.OWN_INLET);
        }
        return stored(mappers.messages()
                .readAfter(inlets.toArray(String[]::new), id.received(), id.value(), until, lane.name(), limit));
    }

    /** Of these messages, those that are there. */
    public Set<UUID> existing(List<MessageId> ids) {
        return mappers.messages().existing(ids);
    }

    /** How many messages a lane made within a span. */
    public long countMade(String lane, Instant from, Instant until) {
        return mappers.messages().countMade(lane, from, until);
    }

    /** The last so many read messages of some inlets within a span. */
    public Stretch stretch(Set<String> inlets, Instant from, Instant until, long most) {
        return mappers.messages().stretch(inlets.toArray(String[]::new), from, until, most);
    }

    /** An attempt that a person made to see what comes back; it settles nothing. */
    public void addTrial(AttemptRow attempt) {
        mappers.outcomes().insertAttempts(AttemptColumns.of(List.of(attempt)));
    }

    /** What a person pasted for a trial. */
    public void addPasted(StoredMessage message) {
        mappers.messages().insert(MessageColumns.of(List.of(message)));
    }

    public List<Jump> jumps(String device, String inlet, Instant from, Instant to) {
        return mappers.messages().jumps(device, inlet, from, to);
    }

    private static List<StoredMessage> stored(List<MessageRow> rows) {
        return rows.stream().map(MessageRow::message).toList();
    }

    public List<AttemptRow> attempts(MessageId id) {
        return mappers.outcomes().attempts(id.received(), id.value());
    }

    /** What lanes owe; of late, where there is so much that counting takes long. */
    public List<LaneDebt> debts() {
        return debts.get();
    }

    /** What lanes owe at this moment. */
    public List<LaneDebt> debtsNow() {
        return mappers.owed().debts();
    }

    public List<DeadLetter> dead(String lane, String outlet, String cause, int limit) {
        return mappers.dead().list(lane, outlet, cause, limit);
    }

    public List<DeadGroup> deadGroups() {
        return mappers.dead().groups();
    }

    /** What a lane owes is given up later by as long as it was closed. */
    public void prolong(String lane, Instant since, Instant now) {
        mappers.owed().prolong(lane, since, now);
    }

    /** From now on what a lane owes keeps the order of devices, or none. */
    public void orderOwed(String lane, boolean ordered) {
        mappers.owed().order(lane, ordered);
    }

    public long owedByLane(String lane) {
        return mappers.owed().countOfLane(lane);
    }

    @Transactional
    public int dropOwed(String lane, String reason) {
        return mappers.owed().dropLane(lane, clock.instant(), reason);
    }

    @Transactional
    public int reaimOwed(String lane, String outlet) {
        return mappers.owed().reaimLane(lane, outlet, clock.instant());
    }
}
