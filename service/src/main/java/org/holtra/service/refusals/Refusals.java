package org.holtra.service.refusals;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.ReentrantLock;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * Calls that inlets refused, of all nodes: the last {@value #KEPT} of each inlet, and how many there were of each slip. They
 * are written a moment after they happen, and not more often than that however many come: what came in between and is
 * overtaken by newer ones is counted only.
 */
@Component
public class Refusals {

    /** Of one inlet, and of all addresses that are no inlet's. */
    public static final int KEPT = 200;

    /** The inlet of addresses that are no inlet's. */
    public static final String NO_INLET = "";

    private static final Duration KEPT_FOR = Duration.ofDays(30);
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<LinkedHashMap<String, String>> FIELDS = new TypeReference<>() {};

    /**
     * How many calls an inlet refused for one slip.
     *
     * @param since when the first of them came, after a day without any
     */
    public record Count(String inlet, String slip, long count, Instant since, Instant last) {}

    /** What is to be written of one inlet. */
    private static final class Unwritten {
        private final Deque<Refusal> latest = new ArrayDeque<>();
        private final Map<String, Count> counts = new HashMap<>();
    }

    private final RefusalMapper mapper;
    private final TransactionTemplate transaction;
    private final InstantSource clock;

    private final ReentrantLock lock = new ReentrantLock();
    private Map<String, Unwritten> unwritten = new HashMap<>();

    Refusals(RefusalMapper mapper, TransactionTemplate transaction, InstantSource clock) {
        this.mapper = mapper;
        this.transaction = transaction;
        this.clock = clock;
    }

    /** @param inlet one of the setup, or {@link #NO_INLET}: what strangers send can not add to them */
    public void add(Refusal refusal) {
        lock.lock();
        try {
            Unwritten of = unwritten.computeIfAbsent(refusal.inlet(), name -> new Unwritten());
            keep(of, refusal);
            count(of, new Count(refusal.inlet(), refusal.slip(), 1, refusal.at(), refusal.at()));
        } finally {
            lock.unlock();
        }
    }

    /** One more that there was no time to look at. */
    public void countOnly(String inlet, String slip) {
        Instant now = clock.instant();
        lock.lock();
        try {
            count(unwritten.computeIfAbsent(inlet, name -> new Unwritten()), new Count(inlet, slip, 1, now, now));
        } finally {
            lock.unlock();
        }
    }

    private static void keep(Unwritten of, Refusal refusal) {
        of.latest.addLast(refusal);
        if (of.latest.size() > KEPT) {
            of.latest.removeFirst();
        }
    }

    private static void count(Unwritten of, Count more) {
        of.counts.merge(
                more.slip(),
                more,
                (a, b) -> new Count(
                        a.inlet(),
                        a.slip(),
                        a.count() + b.count(),
                        a.since().isBefore(b.since()) ? a.since() : b.since(),
                        a.last().isAfter(b.last()) ? a.last() : b.last()));
    }

    /** Called every so often. While the database is away they stay here, as many as are kept. */
    public void flush() {
        Map<String, Unwritten> now;
        lock.lock();
        try {
            now = unwritten;
            unwritten = new HashMap<>();
        } finally {
            lock.unlock();
        }
        if (now.isEmpty()) {
            return;
        }
        try {
            transaction.executeWithoutResult(status -> now.forEach(this::write));
        } catch (DataAccessException | TransactionException e) {
            takeBack(now);
            throw e;
        }
    }

    private void write(String inlet, Unwritten of) {
        if (!of.latest.isEmpty()) {
            mapper.insert(of.latest.stream().map(Refusals::row).toList());
            mapper.prune(inlet, KEPT);
        }
        of.counts.values().forEach(one -> mapper.count(inlet, one.slip(), one.count(), one.since(), one.last()));
    }

    private void takeBack(Map<String, Unwritten> old) {
        lock.lock();
        try {
            Map<String, Unwritten> newer = unwritten;
            unwritten = old;
            newer.forEach((inlet, more) -> {
                Unwritten of = unwritten.computeIfAbsent(inlet, name -> new Unwritten());
                more.latest.forEach(refusal -> keep(of, refusal));
                more.counts.values().forEach(one -> count(of, one));
            });
        } finally {
            lock.unlock();
        }
    }

    private static RefusalMapper.Row row(Refusal refusal) {
        return new RefusalMapper.Row(
                refusal.at(),
                refusal.inlet(),
                refusal.node(),
                refusal.remote(),
                refusal.address(),
                refusal.code(),
                refusal.slip(),
                refusal.text(),
                JSON.writeValueAsString(refusal.fields()));
    }

    /** The newest first. */
    public List<Refusal> latest(String inlet) {
        List<Refusal> latest = new ArrayList<>();
        lock.lock();
        try {
            Unwritten of = unwritten.get(inlet);
            if (of != null) {
                latest.addAll(of.latest.reversed());
            }
        } finally {
            lock.unlock();
        }
        mapper.latest(inlet, KEPT).stream()
                .limit(KEPT - latest.size())
                .map(row -> new Refusal(
                        row.at(),
                        row.inlet(),
                        row.node(),
                        row.remote(),
                        row.address(),
                        row.code(),
                        row.slip(),
                        row.text(),
                        JSON.readValue(row.fields(), FIELDS)))
                .forEach(latest::add);
        return latest;
    }

    /** By inlet and slip, as written so far; of each inlet the latest slip first. */
    public List<Count> counts() {
        return mapper.counts();
    }

    /** Called every so often. */
    public void forgetOld() {
        Instant before = clock.instant().minus(KEPT_FOR);
        mapper.forget(before);
        mapper.forgetCounts(before);
    }
}
