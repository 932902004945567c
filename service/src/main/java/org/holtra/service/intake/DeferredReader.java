package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Reads what waits to be read, the oldest first and each device's in the order it came, once its codec can be run again. A
 * message over which its codec is stopped again and again, while it is not over others, is given up as unreadable; where
 * nothing else passes either, it is the codec that is at fault, and the message waits.
 */
@Component
public class DeferredReader {

    private static final int PAGE = 200;
    /** A codec is stopped over the same message so often, while others pass, before it is given up. */
    private static final int STOPS = 3;
    /** So many others are tried to find out whether any passes. */
    private static final int OTHERS_TRIED = 3;

    private static final Duration PAUSE = Duration.ofSeconds(1);
    private static final Duration LONGEST_PAUSE = Duration.ofSeconds(30);
    /** Where this node knows of nothing that waits, it looks so often for what others left. */
    private static final Duration LOOK_FOR_OTHERS = Duration.ofSeconds(5);

    private static final int MOST_STOPPED = 10_000;
    private static final String READ_LATER = "read later than it came, since its codec could not be run then";
    private static final Logger log = LoggerFactory.getLogger(DeferredReader.class);

    /** A message over which its codec was stopped. */
    private record Stopped(int stops, int tries) {}

    private final Deferrals deferrals;
    private final Rereader rereader;
    private final Stores stores;
    private final Setups setups;
    private final Dispatcher dispatcher;
    private final Map<UUID, Stopped> stopped = new HashMap<>();
    private final Map<String, Instant> pausedUntil = new HashMap<>();
    private volatile boolean closed;
    private Instant lookedForOthers = Instant.EPOCH;

    /** Where messages are. */
    @Component
    record Stores(Records records, Journal journal, InstantSource clock) {}

    DeferredReader(Deferrals deferrals, Rereader rereader, Stores stores, Setups setups, Dispatcher dispatcher) {
        this.deferrals = deferrals;
        this.rereader = rereader;
        this.stores = stores;
        this.setups = setups;
        this.dispatcher = dispatcher;
    }

    /** Begins nothing more. */
    public void close() {
        closed = true;
    }

    /** Called every so often, by one thread. */
    public void run() {
        if (closed || stores.journal.isAway() || setups.current().revision() == 0) {
            return;
        }
        try {
            deferrals.hearOfOthers();
            while (!closed && isTimeToLook() && step()) {
                // there may be more
            }
        } catch (DataAccessException | TransactionException e) {
            log.debug("What waits to be read waits on: {}", e.getMessage());
        }
    }

    private boolean isTimeToLook() {
        Instant now = stores.clock.instant();
        if (deferrals.isEmpty() && now.isBefore(lookedForOthers.plus(LOOK_FOR_OTHERS))) {
            return false;
        }
        lookedForOthers = now;
        return true;
    }

    /** Reads a page. False if nothing more can be read now. */
    private boolean step() {
        Instant now = stores.clock.instant();
        pausedUntil.values().removeIf(until -> !until.isAfter(now));
        Map<String, Integer> kept = deferrals.kept();
        MessagePage found = stores.records.deferred(Set.copyOf(pausedUntil.keySet()), PAGE);
        List<StoredMessage> page = found.messages();
        Set<String> there = new HashSet<>();
        page.forEach(message -> there.add(Deferrals.keyOf(message)));
        if (!found.more()) {
            // What is not there any more was read by another node.
            kept.forEach((key, count) -> {
                if (!there.contains(key) && !pausedUntil.containsKey(key)) {
                    deferrals.read(key, count);
                }
            });
        }
        List<Rereader.Change> changes = new ArrayList<>();
        Set<String> blocked = new HashSet<>();
        for (int i = 0; i < page.size(); i++) {
            StoredMessage message = page.get(i);
            String key = Deferrals.keyOf(message);
            if (!blocked.contains(key)) {
                Optional<Rereader.Change> change = read(message, page.subList(i + 1, page.size()));
                change.ifPresentOrElse(changes::add, () -> blocked.add(key));
            }
        }
        write(changes);
        blocked.forEach(key -> pausedUntil.putIfAbsent(key, now.plus(PAUSE)));
        return !changes.isEmpty();
    }

    /** Empty if it waits on. */
    private Optional<Rereader.Change> read(StoredMessage message, List<StoredMessage> others) {
        Setup setup = setups.current();
        Rereader.Result now = rereader.read(message, setup, false);
        if (now.picked().map(Picked::isDeferred).orElse(false)) {
            Picked picked = now.picked().get();
            if (!picked.stored().reason().equals(message.reason())) {
                stores.journal.deferredFor(message.id(), picked.stored().reason());
            }
            return picked.wasStopped() ? stoppedOver(message, picked, others) : Optional.empty();
        }
        stopped.remove(message.id().value());
        return Optional.of(rereader.firstReading(message, now, READ_LATER));
    }

    /** The change that gives it up; empty if it waits on. */
    private Optional<Rereader.Change> stoppedOver(StoredMessage message, Picked now, List<StoredMessage> others) {
        UUID id = message.id().value();
        Stopped before = stopped.getOrDefault(id, new Stopped(0, 0));
        Stopped after = new Stopped(before.stops + (anyPasses(message, others) ? 1 : 0), before.tries + 1);
        if (after.stops >= STOPS) {
            stopped.remove(id);
            return Optional.of(rereader.givenUp(
                    message, now.stored().reason() + " " + STOPS + " times over this message, and not over others"));
        }
        if (stopped.size() >= MOST_STOPPED) {
            stopped.clear();
        }
        stopped.put(id, after);
        Duration pause = PAUSE.multipliedBy(1L << Math.min(after.tries - 1, 5));
        pausedUntil.put(
                Deferrals.keyOf(message),
                stores.clock.instant().plus(pause.compareTo(LONGEST_PAUSE) > 0 ? LONGEST_PAUSE : pause));
        return Optional.empty();
    }

    /** Whether a message passes that waits too, of the same device or model. It is only looked at. */
    private boolean anyPasses(StoredMessage message, List<StoredMessage> others) {
        Setup setup = setups.current();
        return others.stream()
                .filter(one -> rereader.modelOf(one).equals(rereader.modelOf(message)))
                .limit(OTHERS_TRIED)
                .anyMatch(one -> rereader.read(one, setup, true)
                        .picked()
                        .map(picked -> !picked.isDeferred())
                        .orElse(false));
    }

    private void write(List<Rereader.Change> changes) {
        if (changes.isEmpty()) {
            return;
        }
        List<Delivery.Owed> owed =
                changes.stream().flatMap(change -> change.owed().stream()).toList();
        owed.forEach(dispatcher::leaves);
        try {
            for (Rereader.Change change : rereader.keepDeferred(changes)) {
                deferrals.read(Deferrals.keyOf(change.now()), 1);
            }
        } finally {
            owed.forEach(dispatcher::leftInTable);
        }
    }
}
