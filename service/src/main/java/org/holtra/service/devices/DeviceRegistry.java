package org.holtra.service.devices;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.core.message.MessageId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * All devices, in memory for picking and shaping, and in the database. When a device was last heard is written once a
 * second for all that were heard, not with every message; after a kill it is read back from the journal.
 */
@Component
public class DeviceRegistry {

    private record Heard(Instant at, UUID message) {}

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<Map<String, Object>> FACTS = new TypeReference<>() {};
    private static final Logger log = LoggerFactory.getLogger(DeviceRegistry.class);

    private final DeviceMapper mapper;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final Map<String, Device> devices = new ConcurrentHashMap<>();
    private final Map<String, Heard> heard = new ConcurrentHashMap<>();

    DeviceRegistry(DeviceMapper mapper, TransactionTemplate transaction, InstantSource clock) {
        this.mapper = mapper;
        this.transaction = transaction;
        this.clock = clock;
    }

    public void load() {
        mapper.catchUp();
        mapper.all().forEach(row -> devices.put(row.key(), device(row)));
    }

    /** The device of this key; one that is unknown is entered, durably, before this returns. */
    public Device known(String key, boolean simulated) {
        Device device = devices.get(key);
        if (device != null) {
            return device;
        }
        mapper.appear(key, simulated, clock.instant());
        return devices.computeIfAbsent(key, absent -> device(mapper.find(key)));
    }

    public Optional<Device> find(String key) {
        return Optional.ofNullable(devices.get(key)).map(this::withLastHeard);
    }

    /** What was known of a device at a revision of its facts. */
    public Optional<Device> at(String key, int revision) {
        Device now = devices.get(key);
        if (now == null || now.revision() == revision) {
            return Optional.ofNullable(now);
        }
        return Optional.ofNullable(mapper.earlier(key, revision)).map(row -> {
            Device then = device(row);
            return new Device(
                    key, then.model(), then.facts(), revision, now.simulated(), now.firstHeard(), now.lastHeard());
        });
    }

    public List<Device> all() {
        return devices.values().stream()
                .map(this::withLastHeard)
                .sorted(Comparator.comparing(Device::key))
                .toList();
    }

    /** A message of the device has been kept. */
    public void heard(String key, MessageId message) {
        heard.merge(key, new Heard(message.received(), message.value()), (a, b) -> a.at.isAfter(b.at) ? a : b);
    }

    /** Makes the device known by this model and these facts, as a new revision; the one before is kept. */
    public Device change(String key, String model, Map<String, Object> facts, String by) {
        transaction.executeWithoutResult(status -> {
            mapper.keepRevision(key, clock.instant(), by);
            mapper.change(key, model, JSON.writeValueAsString(facts));
        });
        Device changed = device(mapper.find(key));
        devices.put(key, changed);
        return changed;
    }

    /** Writes when devices were last heard. */
    public void writeHeard() {
        if (heard.isEmpty()) {
            return;
        }
        List<String> keys = new ArrayList<>();
        List<Heard> values = new ArrayList<>();
        for (String key : List.copyOf(heard.keySet())) {
            Heard one = heard.remove(key);
            if (one != null) {
                keys.add(key);
                values.add(one);
                devices.computeIfPresent(key, (k, device) -> withLastHeard(device, one.at));
            }
        }
        try {
            mapper.heard(
                    keys.toArray(String[]::new),
                    values.stream().map(Heard::at).toArray(Instant[]::new),
                    values.stream().map(Heard::message).toArray(UUID[]::new));
        } catch (DataAccessException e) {
            for (int i = 0; i < keys.size(); i++) {
                heard.putIfAbsent(keys.get(i), values.get(i));
            }
            log.warn(
                    "When devices were last heard could not be written and is kept for the next time: {}",
                    e.getMessage());
        }
    }

    private Device withLastHeard(Device device) {
        Heard latest = heard.get(device.key());
        return latest == null ? device : withLastHeard(device, latest.at);
    }

    private static Device withLastHeard(Device device, Instant at) {
        Instant first = device.firstHeard() == null ? at : device.firstHeard();
        return new Device(
                device.key(), device.model(), device.facts(), device.revision(), device.simulated(), first, at);
    }

    private static Device device(DeviceMapper.Row row) {
        return new Device(
                row.key(),
                row.model(),
                JSON.readValue(row.facts(), FACTS),
                row.revision(),
                row.simulated(),
                row.firstHeard(),
                row.lastHeard());
    }
}
