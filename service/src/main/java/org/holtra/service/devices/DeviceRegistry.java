package org.holtra.service.devices;

import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.stream.Collectors;
import org.holtra.service.journal.Bulletin;
import org.holtra.service.journal.JournalTransaction;
import org.holtra.service.journal.Told;
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

    private final DeviceMapper mapper;
    private final JournalTransaction transaction;
    private final InstantSource clock;
    private final Bulletin bulletin;
    private final ConcurrentSkipListMap<String, Device> devices = new ConcurrentSkipListMap<>();

    /**
     * What was known of a device before.
     *
     * @param until when it was replaced, and by whom
     */
    public record Earlier(int revision, Device.Knowledge knowledge, java.time.Instant until, String by) {}

    DeviceRegistry(DeviceMapper mapper, JournalTransaction transaction, InstantSource clock, Bulletin bulletin) {
        this.mapper = mapper;
        this.transaction = transaction;
        this.clock = clock;
        this.bulletin = bulletin;
    }

    /** Another node changed what is known of a device. */
    @EventListener
    void told(Told told) {
        if (!told.is(Told.Topic.DEVICE)) {
            return;
        }
        if (told.name().isEmpty()) {
            Set<String> there = mapper.all().stream().map(DeviceMapper.Row::key).collect(Collectors.toSet());
            load();
            devices.keySet().retainAll(there);
            return;
        }
        DeviceMapper.Row row = mapper.find(told.name());
        if (row == null) {
            devices.remove(told.name());
        } else {
            devices.put(told.name(), device(row));
        }
    }

    public void load() {
        mapper.all().forEach(row -> devices.put(row.key(), device(row)));
    }

    public Optional<Device> find(String key) {
        return Optional.ofNullable(devices.get(key));
    }

    /** Enters a device that was unknown, durably, before this returns; the one there is if another was faster. */
    public Device enter(String key, boolean simulated, String model, Map<String, Object> facts) {
        return transaction.execute(() -> {
            int before = mapper.lastRevision(key);
            mapper.appear(key, simulated, model, JSON.writeValueAsString(facts));
            if (before > 0) {
                mapper.setRevision(key, before + 1);
            }
            Device entered = device(mapper.find(key));
            bulletin.tell(Told.Topic.DEVICE, key);
            devices.putIfAbsent(key, entered);
            return devices.get(key);
        });
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
        Device changed = transaction.execute(() -> {
            mapper.keepRevision(key, clock.instant(), by);
            mapper.change(
                    key,
                    knowledge,
                    JSON.writeValueAsString(knowledge.facts()),
                    JSON.writeValueAsString(knowledge.points()));
            bulletin.tell(Told.Topic.DEVICE, key);
            return device(mapper.find(key));
        });
        devices.put(key, changed);
        return changed;
    }

    /** A device entered by hand turns out to be a simulated one. */
    public Device markSimulated(String key) {
        mapper.markSimulated(key);
        bulletin.tell(Told.Topic.DEVICE, key);
        return devices.computeIfPresent(
                key, (k, device) -> new Device(key, device.knowledge(), device.barred(), device.revision(), true));
    }

    /** False if there is no such device. */
    public boolean bar(String key, boolean barred) {
        if (mapper.bar(key, barred) == 0) {
            return false;
        }
        bulletin.tell(Told.Topic.DEVICE, key);
        devices.put(key, device(mapper.find(key)));
        return true;
    }

    /** Takes a device out of the registry; its messages stay. False if there is no such device. */
    public boolean forget(String key, String by) {
        boolean gone = Boolean.TRUE.equals(transaction.execute(() -> {
            mapper.keepRevision(key, clock.instant(), by);
            bulletin.tell(Told.Topic.DEVICE, key);
            return mapper.forget(key) > 0;
        }));
        devices.remove(key);
        return gone;
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
                row.born(),
                row.silentAfter());
    }
}
