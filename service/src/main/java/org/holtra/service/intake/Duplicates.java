package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Opened;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.history.Records;
import org.springframework.stereotype.Component;

/** The messages that may still be followed by duplicates of themselves. */
@Component
class Duplicates {

    /**
     * @param kept completed with the message's id once it is durable
     */
    record First(MessageId id, CompletableFuture<MessageId> kept) {}

    private record Key(String inlet, String device, String same) {}

    private final Records records;
    private final InstantSource clock;
    private final Map<Key, First> firsts = new ConcurrentHashMap<>();

    Duplicates(Records records, InstantSource clock) {
        this.records = records;
        this.clock = clock;
    }

    /** What came in before this process began. */
    void load(Setup setup) {
        Duration longest = longest(setup);
        if (longest.isZero()) {
            return;
        }
        records.firsts(clock.instant().minus(longest))
                .forEach(first -> firsts.putIfAbsent(
                        new Key(first.inlet(), first.device(), first.key()), kept(new MessageId(first.id()))));
    }

    private static First kept(MessageId id) {
        return new First(id, CompletableFuture.completedFuture(id));
    }

    /**
     * The message that this one is a duplicate of; or null, and then this one is the first.
     *
     * @param kept completed once this one is durable, or exceptionally
     */
    First before(Opened opened, String same, CompletableFuture<MessageId> kept) {
        Inlet.Duplicates rule = opened.inlet().identity().duplicates();
        Key key = new Key(opened.inlet().name(), opened.origin().device(), same);
        MessageId id = opened.arrival().id();
        First mine = new First(id, kept);
        First there = firsts.compute(
                key,
                (k, first) ->
                        first == null || first.id.received().plus(rule.within()).isBefore(id.received())
                                ? mine
                                : first);
        if (there == mine) {
            kept.whenComplete((done, failure) -> {
                if (failure != null) {
                    firsts.remove(key, mine);
                }
            });
            return null;
        }
        return there;
    }

    /** Forgets those that are too old to have duplicates. */
    void forget(Setup setup) {
        Instant now = clock.instant();
        firsts.forEach((key, first) -> {
            Inlet inlet = setup.inlets().get(key.inlet);
            Inlet.Duplicates rule = inlet == null ? null : inlet.identity().duplicates();
            if (rule == null || first.id.received().plus(rule.within()).isBefore(now)) {
                firsts.remove(key, first);
            }
        });
    }

    static Duration longest(Setup setup) {
        return setup.inlets().values().stream()
                .map(inlet -> inlet.identity().duplicates())
                .filter(duplicates -> duplicates != null)
                .map(Inlet.Duplicates::within)
                .max(Duration::compareTo)
                .orElse(Duration.ZERO);
    }
}
