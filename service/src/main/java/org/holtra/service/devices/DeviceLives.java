package org.holtra.service.devices;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.BiFunction;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.IntFunction;
import org.holtra.core.setup.Model;
import org.holtra.service.cluster.Node;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionOperations;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * What devices' own messages tell of them. It is written a while after they were heard, not with every message, and a part
 * at a time, so that many devices never keep the database busy for long; after a kill it is made up from the journal, which
 * has the messages since.
 *
 * <p>Several nodes hear the same device. So what is written is what this node heard, on top of what the database has then;
 * and what others wrote is read every so often.
 */
@Component
public class DeviceLives {

    /** A million devices heard at once are written within this, by the parts below, twice a second. */
    private static final Duration OVERLAP = Duration.ofMinutes(1);

    /** Of those that were heard, this part is written each time, the longest unwritten first. */
    private static final int PARTS = 10;

    private static final int LEAST_PART = 50;

    /** How far to look back where nothing at all is accounted for. */
    private static final Duration FIRST_LOOK = Duration.ofHours(1);

    /** Another node has written what it heard by then. */
    private static final Duration WRITTEN_BY_OTHERS = Duration.ofSeconds(15);

    /** A transaction is seen so much later than the time it notes. */
    private static final Duration SEEN_LATER = Duration.ofSeconds(10);

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(DeviceLives.class);

    private final DeviceMapper mapper;
    private final TransactionOperations transaction;
    private final Consumer<DeviceEvent> events;
    private final BooleanSupplier hasCompany;
    private final InstantSource clock;
    private final Map<String, DeviceLife> lives = new ConcurrentHashMap<>();
    /** What this node heard and has not written yet. */
    private final Map<String, List<DeviceLife.Heard>> unwritten = new ConcurrentHashMap<>();

    private final Queue<String> waiting = new ConcurrentLinkedQueue<>();
    private volatile Instant upSince;
    private Instant othersSince;

    @Autowired
    DeviceLives(
            DeviceMapper mapper,
            TransactionTemplate transaction,
            Node node,
            InstantSource clock,
            ApplicationEventPublisher events) {
        this(mapper, transaction, node::hasCompany, clock, events::publishEvent);
    }

    /**
     * @param hasCompany whether there are other nodes
     * @param events told of devices that have fallen silent or are back
     */
    DeviceLives(
            DeviceMapper mapper,
            TransactionOperations transaction,
            BooleanSupplier hasCompany,
            InstantSource clock,
            Consumer<DeviceEvent> events) {
        this.events = events;
        this.mapper = mapper;
        this.transaction = transaction;
        this.hasCompany = hasCompany;
        this.clock = clock;
        this.upSince = clock.instant();
        this.othersSince = upSince;
    }

    /**
     * @return from when on messages may not be accounted for: a while before the newest that is, since others wait to be
     *     written
     */
    public Instant load() {
        upSince = clock.instant();
        othersSince = upSince;
        mapper.lives().forEach(row -> life(row).ifPresent(life -> lives.put(row.key(), life)));
        return lives.values().stream()
                .map(DeviceLife::lastHeard)
                .filter(at -> at != null)
                .max(Instant::compareTo)
                .map(at -> at.minus(OVERLAP))
                .orElseGet(() -> upSince.minus(FIRST_LOOK));
    }

    /** Empty if it cannot be read; then it is told anew, and nothing else suffers. */
    private static Optional<DeviceLife> life(DeviceMapper.LifeRow row) {
        if (row.life() == null) {
            return Optional.empty();
        }
        try {
            return Optional.of(JSON.readValue(row.life(), DeviceLife.class));
        } catch (JacksonException e) {
            log.warn("What device {} told of itself cannot be read and begins anew: {}", row.key(), e.getMessage());
            return Optional.empty();
        }
    }

    public DeviceLife of(String key) {
        return lives.getOrDefault(key, DeviceLife.UNHEARD);
    }

    /**
     * A device as expressions see it: what is known of it, and by {@code last} what it said last.
     *
     * @param model its model, or null
     */
    public Map<String, Object> scope(Device device, Model model) {
        Map<String, Object> scope = device.scope(model);
        scope.put("last", new LastKnown(of(device.key()), clock.instant()));
        return scope;
    }

    /** A message of the device has been kept. */
    public void heard(String key, DeviceLife.Heard heard) {
        lives.compute(key, (k, life) -> {
            unwritten.compute(key, (same, before) -> {
                List<DeviceLife.Heard> all = before == null ? new ArrayList<>() : before;
                if (before == null) {
                    waiting.add(key);
                }
                all.add(heard);
                return all;
            });
            return (life == null ? DeviceLife.UNHEARD : life).after(heard);
        });
    }

    public void forget(String key) {
        lives.remove(key);
        unwritten.remove(key);
    }

    /**
     * Looks which devices have fallen silent. Time in which this process did not run counts for none.
     *
     * @param after how long each may be unheard; empty if that is not known
     */
    public void lookForSilence(BiFunction<String, DeviceLife, Optional<Duration>> after) {
        List<String> silent = new ArrayList<>();
        lives.forEach((key, life) -> {
            if (isSilent(key, life, after)) {
                silent.add(key);
            }
        });
        for (int from = 0; from < silent.size(); from += LEAST_PART * PARTS) {
            List<String> part = silent.subList(from, Math.min(silent.size(), from + LEAST_PART * PARTS));
            write(part, Map.of(), (key, life) -> isSilent(key, life, after) ? life.fallenSilent() : life);
        }
    }

    private boolean isSilent(String key, DeviceLife life, BiFunction<String, DeviceLife, Optional<Duration>> after) {
        if (life.silent() || life.lastHeard() == null) {
            return false;
        }
        Instant since = life.lastHeard().isBefore(upSince) ? upSince : life.lastHeard();
        Duration more = hasCompany.getAsBoolean() ? WRITTEN_BY_OTHERS : Duration.ZERO;
        return after.apply(key, life)
                .filter(span -> clock.instant().isAfter(since.plus(span).plus(more)))
                .isPresent();
    }

    /** Called every so often. */
    public void writeSome() {
        write(Math.max(LEAST_PART, unwritten.size() / PARTS));
    }

    /** All that is not written yet. */
    public void writeAll() {
        write(Integer.MAX_VALUE);
    }

    /** Called every so often: takes over what other nodes wrote. */
    public void hearOfOthers() {
        if (!hasCompany.getAsBoolean()) {
            return;
        }
        Instant now = clock.instant();
        try {
            mapper.livesSince(othersSince.minus(SEEN_LATER))
                    .forEach(row -> life(row)
                            .ifPresent(life -> lives.compute(row.key(), (key, before) -> together(key, life))));
            othersSince = now;
        } catch (DataAccessException e) {
            log.debug("What other nodes heard could not be read: {}", e.getMessage());
        }
    }

    /** What is written, and what this node heard since. */
    private DeviceLife together(String key, DeviceLife written) {
        DeviceLife life = written;
        for (DeviceLife.Heard heard : List.copyOf(unwritten.getOrDefault(key, List.of()))) {
            life = life.after(heard);
        }
        return life;
    }

    private void write(int most) {
        Map<String, List<DeviceLife.Heard>> taken = new HashMap<>();
        for (String key = waiting.poll(); key != null; key = taken.size() < most ? waiting.poll() : null) {
            String name = key;
            lives.computeIfPresent(name, (k, life) -> {
                List<DeviceLife.Heard> heard = unwritten.remove(name);
                if (heard != null) {
                    taken.put(name, heard);
                }
                return life;
            });
        }
        if (!taken.isEmpty()) {
            write(List.copyOf(taken.keySet()), taken, (key, life) -> life);
        }
    }

    /** @param then what becomes of each, once what was heard has been added to what the database has */
    private void write(
            List<String> keys,
            Map<String, List<DeviceLife.Heard>> heard,
            BiFunction<String, DeviceLife, DeviceLife> then) {
        try {
            List<DeviceEvent> happened = new ArrayList<>();
            Map<String, DeviceLife> written = transaction.execute(status -> merge(keys, heard, then, happened));
            written.forEach((key, life) -> lives.computeIfPresent(key, (k, before) -> together(key, life)));
            happened.forEach(events);
        } catch (DataAccessException | TransactionException e) {
            heard.forEach(this::putBack);
            log.debug("What devices told could not be written and is kept for the next time: {}", e.getMessage());
        }
    }

    private void putBack(String key, List<DeviceLife.Heard> heard) {
        lives.computeIfPresent(key, (k, life) -> {
            unwritten.compute(key, (same, since) -> {
                if (since == null) {
                    waiting.add(key);
                    return heard;
                }
                List<DeviceLife.Heard> all = new ArrayList<>(heard);
                all.addAll(since);
                return all;
            });
            return life;
        });
    }

    private Map<String, DeviceLife> merge(
            List<String> keys,
            Map<String, List<DeviceLife.Heard>> heard,
            BiFunction<String, DeviceLife, DeviceLife> then,
            List<DeviceEvent> happened) {
        Map<String, DeviceLife> merged = new HashMap<>();
        for (DeviceMapper.LifeRow row : mapper.livesForUpdate(keys.toArray(String[]::new))) {
            DeviceLife before = life(row).orElse(DeviceLife.UNHEARD);
            DeviceLife life = before;
            List<DeviceLife.Heard> its = new ArrayList<>(heard.getOrDefault(row.key(), List.of()));
            its.sort(Comparator.comparing(DeviceLife.Heard::id));
            for (DeviceLife.Heard one : its) {
                life = life.after(one);
            }
            DeviceLife after = then.apply(row.key(), life);
            merged.put(row.key(), after);
            // Under the row's lock: of two nodes, one sees the change.
            if (before.silent() != after.silent()) {
                happened.add(silence(row.key(), before, after));
            }
        }
        List<String> there = List.copyOf(merged.keySet());
        if (!there.isEmpty()) {
            mapper.writeLives(
                    there.toArray(String[]::new),
                    column(there, merged, JSON::writeValueAsString, String[]::new),
                    column(there, merged, DeviceLife::firstHeard, Instant[]::new),
                    column(there, merged, DeviceLife::lastHeard, Instant[]::new),
                    column(there, merged, DeviceLife::lastMessage, UUID[]::new));
        }
        return merged;
    }

    private DeviceEvent silence(String key, DeviceLife before, DeviceLife after) {
        return new DeviceEvent(
                key,
                after.silent() ? DeviceEvent.What.SILENT : DeviceEvent.What.BACK,
                clock.instant(),
                Map.of("lastHeard", before.lastHeard().toString()));
    }

    private static <C> C[] column(
            List<String> keys, Map<String, DeviceLife> lives, Function<DeviceLife, C> value, IntFunction<C[]> array) {
        return keys.stream().map(key -> value.apply(lives.get(key))).toArray(array);
    }
}
