package org.holtra.service.balance;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.LongAdder;
import org.springframework.stereotype.Component;

/**
 * Counts by minute of what was acknowledged, taken and settled. They are made by those who do these things and written
 * by themselves, so that the journal's tables can be held against them. Each count is written within a second; what was
 * counted in the last second before a process is killed is lost, so a count is never higher than the truth.
 */
@Component
public class Tally {

    public enum What {
        ACKNOWLEDGED,
        /** Of those, the messages that were counted only, as their inlet asks for. */
        IGNORED,
        TAKEN,
        DELIVERED,
        DEAD,
        FAILED,
        /** Attempts of an outlet that delivered, by outlet. */
        SENT,
        /** The bytes of their bodies, by outlet. */
        BYTES
    }

    /** @param name of the inlet or lane */
    /** What a count in the table is of; empty for one that a newer version writes. */
    public static Optional<What> what(String word) {
        return Arrays.stream(What.values())
                .filter(what -> what.name().equals(word))
                .findFirst();
    }

    record Key(Instant minute, What what, String name) {}

    record Count(Instant minute, String what, String name, long count) {}

    private final ConcurrentHashMap<Key, LongAdder> counts = new ConcurrentHashMap<>();
    private final Totals totals = new Totals();

    /** @param at the time to count it under; for what was acknowledged that is the message's arrival */
    public void add(What what, String name, Instant at) {
        add(what, name, at, 1);
    }

    /** @param amount to count */
    public void add(What what, String name, Instant at, long amount) {
        totals.add(what, name, amount);
        // compute() keeps drain() from removing an adder between its look-up and its use.
        counts.compute(new Key(at.truncatedTo(ChronoUnit.MINUTES), what, name), (key, adder) -> {
            LongAdder counter = adder == null ? new LongAdder() : adder;
            counter.add(amount);
            return counter;
        });
    }

    /** What was counted since this process started; the counts go on. */
    public List<Totals.Total> totals() {
        return totals.all();
    }

    /** Takes all counts out. */
    List<Count> drain() {
        List<Count> drained = new ArrayList<>();
        // A copy: what is taken out and comes again while others are taken out must not be met twice.
        for (Key key : Set.copyOf(counts.keySet())) {
            LongAdder adder = counts.remove(key);
            if (adder != null) {
                drained.add(new Count(key.minute, key.what.name(), key.name, adder.sum()));
            }
        }
        return drained;
    }

    /** Puts counts back that could not be written. */
    void restore(List<Count> drained) {
        for (Count count : drained) {
            counts.compute(new Key(count.minute, What.valueOf(count.what), count.name), (key, adder) -> {
                LongAdder counter = adder == null ? new LongAdder() : adder;
                counter.add(count.count);
                return counter;
            });
        }
    }
}
