package org.holtra.service.balance;

import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.LongAdder;

/** Counts that only rise, since the process started. */
public final class Totals {

    /** @param count goes on */
    public record Total(Tally.What what, String name, LongAdder count) {}

    private record Of(Tally.What what, String name) {}

    private final Map<Of, LongAdder> counts = new ConcurrentHashMap<>();

    void add(Tally.What what, String name, long amount) {
        counts.computeIfAbsent(new Of(what, name), of -> new LongAdder()).add(amount);
    }

    List<Total> all() {
        return counts.entrySet().stream()
                .map(one -> new Total(one.getKey().what, one.getKey().name, one.getValue()))
                .toList();
    }
}
