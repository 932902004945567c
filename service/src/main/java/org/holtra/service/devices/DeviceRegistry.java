package org.holtra.service.devices;

import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.locks.ReadWriteLock;
import java.util.concurrent.locks.ReentrantReadWriteLock;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.holtra.core.setup.Channel;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.database.JournalTransaction;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** All devices and what people know of them, in memory for reading, picking and shaping, and in the database. */
@Component
public class DeviceRegistry {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<Map<String, Object>> FACTS = new TypeReference<>() {};
    private static final TypeReference<Map<String, Device.Point>> POINTS = new TypeReference<>() {};
    private static final TypeReference<List<Channel>> CHANNELS = new TypeReference<>() {};

    private final DeviceMapper mapper;
    private final JournalTransaction transaction;
    private final InstantSource clock;
    private final ClusterEvents cluster;
    private final ApplicationEventPublisher events;
    private final ConcurrentSkipListMap<String, Device> devices = new ConcurrentSkipListMap<>();

    /** Changes by this node share the one lock, reloads have the other: what is read of the table must not undo a change. */
    private final ReadWriteLock changes = new ReentrantReadWriteLock();

    /**
     * What was known of a device before.
     *
     * @param until when it was replaced, and by whom
     */
    public record Earlier(int revision, Device.Knowledge knowledge, java.time.Instant until, String by) {}

    DeviceRegistry(
            DeviceMapper mapper,
            JournalTransaction transaction,
            InstantSource clock,
            ClusterEvents cluster,
            ApplicationEventPublisher events) {
        this.events = events;
        this.mapper = mapper;
        this.transaction = transaction;
        this.clock = clock;
        this.cluster = cluster;
    }

    /** Another node changed what is known of a device. */
    @EventListener
    void on(ClusterEvent event) {
        if (!event.is(ClusterEvent.Topic.DEVICE)) {
            return;
        }
        reload(event.name());
    }

    /** @param key empty for all devices */
    private void reload(String key) {
        changes.writeLock().lock();
        try {
            readAgain(key);
        } finally {
            changes.writeLock().unlock();
        }
    }

    private void readAgain(String key) {
        if (key.isEmpty()) {
            List<DeviceMapper.Row> rows = mapper.all();
            rows.forEach(row -> devices.put(row.key(), device(row)));
            devices.keySet().retainAll(rows.stream().map(DeviceMapper.Row::key).collect(Collectors.toSet()));
            return;
        }
        DeviceMapper.Row row = mapper.find(key);
        if (row == null) {
            devices.remove(key);
        } else {
            devices.put(key, device(row));
        }
    }

    /** Makes a change of the table and of the memory, during which nothing is reloaded. */
    private <T> T changing(Supplier<T> change) {
        changes.readLock().lock();
        try {
            return change.get();
        } finally {
            changes.readLock().unlock();
        }
    }

    private static Device newer(Device one, Device other) {
        return one.revision() > other.revision() ? one : other;
    }

    public void load() {
        reload("");
    }

    public Optional<Device> find(String key) {
        return Optional.ofNullable(devices.get(key));
    }

    /** Enters a device that was unknown, durably, before this returns; the one there is if another was faster. */
    public Device enter(String key, boolean simulated, String model, Map<String, Object> facts) {
        return changing(() -> {
            boolean[] appeared = new boolean[1];
            Device there = transaction.execute(() -> {
                int before = mapper.lastRevision(key);
                appeared[0] = mapper.appear(key, simulated, model, JSON.writeValueAsString(facts)) > 0;
                if (before > 0) {
                    mapper.setRevision(key, before + 1);
                }
                Device entered = device(mapper.find(key));
                cluster.publish(ClusterEvent.Topic.DEVICE, key);
                return devices.merge(key, entered, DeviceRegistry::newer);
            });
            if (appeared[0]) {
                happened(key, DeviceEvent.What.APPEARED, Map.of());
            }
            return there;
        });
    }

    private void happened(String key, DeviceEvent.What what, Map<String, Object> more) {
        events.publishEvent(new DeviceEvent(key, what, clock.instant(), more));
    }

    /** Facts that are others than before, each with what it was and what it is; null for none. */
    private static Map<String, Object> changes(Map<String, Object> before, Map<String, Object> after) {
        Map<String, Object> changes = new TreeMap<>();
        Set<String> names = new TreeSet<>(before.keySet());
        names.addAll(after.keySet());
        for (String name : names) {
            if (!Objects.equals(before.get(name), after.get(name))) {
                Map<String, Object> change = new LinkedHashMap<>();
                change.put("from", before.get(name));
                change.put("to", after.get(name));
                changes.put(name, change);
            }
        }
        return changes;
    }

    /** What was known of a device at a revision of it. */
    public Optional<Device> at(String key, int revision) {
        Device now = devices.get(key);
        if (now != null && now.revision() == revision) {
            return Optional.of(now);
        }
        return Optional.ofNullable(mapper.earlier(key, revision))
                .map(DeviceRegistry::device)
                .map(then -> new Device(key, then.knowledge(), false, revision, now != null && now.simulated()));
    }

    public List<Earlier> earlier(String key) {
        return mapper.revisions(key).stream()
                .map(row -> new Earlier(row.revision(), knowledge(row), row.changed(), row.changedBy()))
                .toList();
    }

    public List<Device> all() {
        return List.copyOf(devices.values());
    }

    public int count() {
        return devices.size();
    }

    /** Those whose keys come after one, in the order of their keys; at most so many. */
    public List<Device> after(String key, int limit) {
        return devices.tailMap(key == null ? "" : key, false).values().stream()
                .limit(limit)
                .toList();
    }

    /** Makes the device known in this way, as a new revision; the one before is kept. */
    public Device change(String key, Device.Knowledge knowledge, String by) {
        return changing(() -> {
            Device before = devices.get(key);
            Device changed = transaction.execute(() -> {
                mapper.keepRevision(key, clock.instant(), by);
                mapper.change(
                        key,
                        knowledge,
                        JSON.writeValueAsString(knowledge.facts()),
                        JSON.writeValueAsString(knowledge.points()),
                        JSON.writeValueAsString(knowledge.channels()));
                cluster.publish(ClusterEvent.Topic.DEVICE, key);
                return device(mapper.find(key));
            });
            devices.merge(key, changed, DeviceRegistry::newer);
            Map<String, Object> changes = before == null
                    ? Map.of()
                    : changes(before.knowledge().facts(), changed.knowledge().facts());
            if (!changes.isEmpty()) {
                happened(key, DeviceEvent.What.FACTS_CHANGED, Map.of("facts", changes, "by", by));
            }
            return changed;
        });
    }

    /** A device entered by hand turns out to be a simulated one. */
    public Device markSimulated(String key) {
        return changing(() -> {
            mapper.markSimulated(key);
            cluster.publish(ClusterEvent.Topic.DEVICE, key);
            return devices.computeIfPresent(
                    key, (k, device) -> new Device(key, device.knowledge(), device.barred(), device.revision(), true));
        });
    }

    /** False if there is no such device. */
    public boolean bar(String key, boolean barred) {
        return changing(() -> {
            if (mapper.bar(key, barred) == 0) {
                return false;
            }
            cluster.publish(ClusterEvent.Topic.DEVICE, key);
            Device before = devices.put(key, device(mapper.find(key)));
            if (before == null || before.barred() != barred) {
                happened(key, barred ? DeviceEvent.What.BARRED : DeviceEvent.What.UNBARRED, Map.of());
            }
            return true;
        });
    }

    /** Takes a device out of the registry; its messages stay. False if there is no such device. */
    public boolean forget(String key, String by) {
        return changing(() -> {
            boolean gone = Boolean.TRUE.equals(transaction.execute(() -> {
                mapper.keepRevision(key, clock.instant(), by);
                cluster.publish(ClusterEvent.Topic.DEVICE, key);
                return mapper.forget(key) > 0;
            }));
            devices.remove(key);
            return gone;
        });
    }

    private static Device device(DeviceMapper.Row row) {
        return new Device(row.key(), knowledge(row), row.barred(), row.revision(), row.simulated());
    }

    private static Device.Knowledge knowledge(DeviceMapper.Known row) {
        return new Device.Knowledge(
                row.model(),
                JSON.readValue(row.facts(), FACTS),
                JSON.readValue(row.points(), POINTS),
                row.zone(),
                row.installed(),
                row.silentAfter(),
                JSON.readValue(row.channels(), CHANNELS));
    }
}
