package org.holtra.service.dispatch;

import java.time.Duration;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * Keeps the health of outlets and the devices they hold across restarts, and shares it between nodes. Written a moment
 * after it changes, never on a delivery's way.
 */
@Component
class OutletHealthStore {

    private static final Logger log = LoggerFactory.getLogger(OutletHealthStore.class);

    /** What is remembered of an outlet. */
    record Remembered(OutletHealth health, List<HeldDevices.Held> held) {}

    private final OutletHealthMapper mapper;
    private final ClusterEvents cluster;
    private final Map<String, OutletHealth> unwritten = new ConcurrentHashMap<>();
    private final Map<String, List<HeldDevices.Held>> unwrittenHeld = new ConcurrentHashMap<>();

    /** The states that every node knows of. */
    private final Map<String, OutletHealth.State> published = new ConcurrentHashMap<>();

    OutletHealthStore(OutletHealthMapper mapper, ClusterEvents cluster) {
        this.mapper = mapper;
        this.cluster = cluster;
    }

    Map<String, Remembered> load() {
        Map<String, List<HeldDevices.Held>> held = mapper.held().stream()
                .collect(Collectors.groupingBy(
                        OutletHealthMapper.HeldRow::outlet,
                        Collectors.mapping(
                                row -> new HeldDevices.Held(row.device(), row.reason(), row.since(), row.until()),
                                Collectors.toList())));
        Map<String, Remembered> remembered = new HashMap<>();
        mapper.all()
                .forEach(row -> health(row)
                        .ifPresent(health -> remembered.put(
                                row.outlet(), new Remembered(health, held.getOrDefault(row.outlet(), List.of())))));
        return remembered;
    }

    /** As the last node to change it wrote it down. */
    Optional<OutletHealth> find(String outlet) {
        Optional<OutletHealth> found = mapper.find(outlet).flatMap(OutletHealthStore::health);
        found.ifPresent(health -> published.put(outlet, health.state()));
        return found;
    }

    /** Empty for a state that a newer version knows and this one does not: this node then finds out for itself. */
    private static Optional<OutletHealth> health(OutletHealthMapper.Row row) {
        return Arrays.stream(OutletHealth.State.values())
                .filter(state -> state.name().equals(row.state()))
                .findFirst()
                .map(state -> health(row, state));
    }

    private static OutletHealth health(OutletHealthMapper.Row row, OutletHealth.State state) {
        return new OutletHealth(
                state,
                row.reason(),
                row.since(),
                row.nextProbe(),
                row.probes(),
                Duration.ofMillis(row.stoppedMillis()),
                Set.of());
    }

    void changed(String outlet, OutletHealth health) {
        unwritten.put(outlet, health);
    }

    void changedHeld(String outlet, List<HeldDevices.Held> held) {
        unwrittenHeld.put(outlet, held);
    }

    void write() {
        writeStates();
        for (String outlet : Set.copyOf(unwrittenHeld.keySet())) {
            List<HeldDevices.Held> held = unwrittenHeld.remove(outlet);
            try {
                mapper.replaceHeld(
                        outlet,
                        held.stream().map(HeldDevices.Held::device).toArray(String[]::new),
                        held.stream().map(HeldDevices.Held::reason).toArray(String[]::new),
                        held.stream().map(HeldDevices.Held::since).toArray(java.time.Instant[]::new),
                        held.stream().map(HeldDevices.Held::until).toArray(java.time.Instant[]::new));
            } catch (DataAccessException e) {
                unwrittenHeld.putIfAbsent(outlet, held);
                log.warn("The devices that outlet {} holds could not be written yet: {}", outlet, e.getMessage());
            }
        }
    }

    /** All in one statement, since a thousand outlets may be probed within a second; others are told of new states. */
    private void writeStates() {
        Map<String, OutletHealth> taken = new TreeMap<>();
        for (String outlet : Set.copyOf(unwritten.keySet())) {
            taken.put(outlet, unwritten.remove(outlet));
        }
        if (taken.isEmpty()) {
            return;
        }
        List<String> news = taken.keySet().stream()
                .filter(outlet -> taken.get(outlet).state() != published.get(outlet))
                .toList();
        try {
            mapper.save(
                    taken.keySet().toArray(String[]::new), OutletHealthMapper.Columns.of(List.copyOf(taken.values())));
            if (!news.isEmpty()) {
                cluster.publish(ClusterEvent.Topic.OUTLET, news);
            }
            news.forEach(outlet -> published.put(outlet, taken.get(outlet).state()));
        } catch (DataAccessException e) {
            taken.forEach(unwritten::putIfAbsent);
            log.warn("The states of {} outlets could not be written yet: {}", taken.size(), e.getMessage());
        }
    }
}
