package org.holtra.service.devices;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.BiFunction;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * What devices' own messages tell of them. It is written a while after they were heard, not with every message, and a part
 * at a time, so that many devices never keep the database busy for long; after a kill it is made up from the journal, which
 * has the messages since.
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

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(DeviceLives.class);

    private final DeviceMapper mapper;
    private final InstantSource clock;
    private final Map<String, DeviceLife> lives = new ConcurrentHashMap<>();
    private final Set<String> unwritten = ConcurrentHashMap.newKeySet();
    private final Queue<String> waiting = new ConcurrentLinkedQueue<>();
    private volatile Instant upSince;

    DeviceLives(DeviceMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
        this.upSince = clock.instant();
    }

    /**
     * @return from when on messages may not be accounted for: a while before the newest that is, since others wait to be
     *     written
     */
    public Instant load() {
        upSince = clock.instant();
        mapper.lives().forEach(row -> lives.put(row.key(), JSON.readValue(row.life(), DeviceLife.class)));
        return lives.values().stream()
                .map(DeviceLife::lastHeard)
                .filter(at -> at != null)
                .max(Instant::compareTo)
                .map(at -> at.minus(OVERLAP))
                .orElseGet(() -> upSince.minus(FIRST_LOOK));
    }

    public DeviceLife of(String key) {
        return lives.getOrDefault(key, DeviceLife.UNHEARD);
    }

    /** A message of the device has been kept. */
    public void heard(String key, DeviceLife.Heard heard) {
        lives.compute(key, (k, life) -> (life == null ? DeviceLife.UNHEARD : life).after(heard));
        toWrite(key);
    }

    private void toWrite(String key) {
        if (unwritten.add(key)) {
            waiting.add(key);
        }
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
        Instant now = clock.instant();
        lives.forEach((key, life) -> {
            if (life.silent() || life.lastHeard() == null) {
                return;
            }
            Instant since = life.lastHeard().isBefore(upSince) ? upSince : life.lastHeard();
            if (after.apply(key, life)
                    .filter(span -> now.isAfter(since.plus(span)))
                    .isPresent()) {
                lives.computeIfPresent(
                        key,
                        (k, latest) -> latest.lastHeard().equals(life.lastHeard()) ? latest.fallenSilent() : latest);
                toWrite(key);
            }
        });
    }

    /** Called every so often. */
    public void writeSome() {
        write(Math.max(LEAST_PART, unwritten.size() / PARTS));
    }

    /** All that is not written yet. */
    public void writeAll() {
        write(Integer.MAX_VALUE);
    }

    private void write(int most) {
        List<String> keys = new ArrayList<>();
        List<DeviceLife> values = new ArrayList<>();
        for (String key = waiting.poll(); key != null; key = keys.size() < most ? waiting.poll() : null) {
            // In this order, so that what is heard from now on is written again.
            DeviceLife life = unwritten.remove(key) ? lives.get(key) : null;
            if (life != null) {
                keys.add(key);
                values.add(life);
            }
        }
        if (keys.isEmpty()) {
            return;
        }
        try {
            mapper.writeLives(
                    keys.toArray(String[]::new),
                    values.stream().map(JSON::writeValueAsString).toArray(String[]::new),
                    values.stream().map(DeviceLife::firstHeard).toArray(Instant[]::new),
                    values.stream().map(DeviceLife::lastHeard).toArray(Instant[]::new),
                    values.stream().map(DeviceLife::lastMessage).toArray(UUID[]::new));
        } catch (DataAccessException e) {
            keys.forEach(this::toWrite);
            log.warn("What devices told could not be written and is kept for the next time: {}", e.getMessage());
        }
    }
}
