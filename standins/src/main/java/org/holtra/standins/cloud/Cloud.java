package org.holtra.standins.cloud;

import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.function.UnaryOperator;

/** What the cloud knows: devices, how many each measured, and what its one token may do. */
public final class Cloud {

    /** A measurement as it came. */
    public record Measurement(String device, String key, String body) {}

    private static final int MEASUREMENTS_KEPT = 5_000;

    private final Map<String, CloudDevice> devices = new LinkedHashMap<>();
    private final Map<String, Integer> counts = new LinkedHashMap<>();
    private final List<Measurement> measurements = new ArrayList<>();
    private final Map<String, String> asked = new LinkedHashMap<>();
    private final Set<Right> granted = EnumSet.allOf(Right.class);
    private final Random random;
    private final Registry registry;
    private int quota = Integer.MAX_VALUE;
    private boolean ownTokens;
    private int creations;
    private int nextId;

    /** @param random for tokens */
    public Cloud(Random random) {
        this(random, new Registry(null));
    }

    /**
     * @param random for tokens
     * @param registry that its devices are kept in
     */
    public Cloud(Random random, Registry registry) {
        this.random = random;
        this.registry = registry;
        Registry.Content content = registry.read();
        nextId = content.nextId();
        content.devices().forEach(one -> devices.put(one.id(), one));
    }

    public synchronized void grant(Set<Right> rights) {
        granted.clear();
        granted.addAll(rights);
    }

    public synchronized Set<Right> granted() {
        return granted.isEmpty() ? Set.of() : EnumSet.copyOf(granted);
    }

    /** At most so many devices. */
    public synchronized void limit(int most) {
        quota = most;
    }

    /** Whether measurements are taken by the token of the device only. */
    public synchronized void wantOwnTokens(boolean wanted) {
        ownTokens = wanted;
    }

    synchronized boolean wantsOwnTokens() {
        return ownTokens;
    }

    public synchronized List<CloudDevice> devices() {
        return List.copyOf(devices.values());
    }

    synchronized Optional<CloudDevice> find(String id) {
        return Optional.ofNullable(devices.get(id));
    }

    public synchronized Optional<CloudDevice> byKey(String key) {
        return devices.values().stream().filter(one -> one.key().equals(key)).findFirst();
    }

    synchronized Optional<CloudDevice> byName(String name) {
        return devices.values().stream().filter(one -> one.name().equals(name)).findFirst();
    }

    /** @throws Full if there are as many as may be */
    public synchronized CloudDevice create(String key, String name) throws Full {
        if (devices.size() >= quota) {
            throw new Full(quota);
        }
        creations++;
        String id = "d-" + nextId++;
        CloudDevice made = new CloudDevice(
                id, key, name, false, false, Long.toHexString(random.nextLong() | Long.MIN_VALUE), null);
        devices.put(id, made);
        keep();
        return made;
    }

    private void keep() {
        registry.write(nextId, devices.values());
    }

    /** No more devices are taken. */
    public static final class Full extends Exception {

        private static final long serialVersionUID = 1L;

        Full(int quota) {
            super("the plan has room for " + quota + " devices");
        }
    }

    /** How many were created since the start, those that are gone included. */
    public synchronized int creations() {
        return creations;
    }

    public synchronized boolean change(String id, UnaryOperator<CloudDevice> change) {
        boolean there = devices.computeIfPresent(id, (same, device) -> change.apply(device)) != null;
        keep();
        return there;
    }

    public synchronized boolean remove(String id) {
        boolean there = devices.remove(id) != null;
        keep();
        return there;
    }

    synchronized void measured(CloudDevice device, String key, String body) {
        if (asked.put(key, device.id()) == null) {
            counts.merge(device.key(), 1, Integer::sum);
            measurements.add(new Measurement(device.key(), key, body));
            if (measurements.size() > MEASUREMENTS_KEPT) {
                measurements.removeFirst();
            }
        }
    }

    /** The newest last. */
    public synchronized List<Measurement> measurements() {
        return List.copyOf(measurements);
    }

    /** How many measurements each device wrote, by key. */
    public synchronized Map<String, Integer> counts() {
        return new LinkedHashMap<>(counts);
    }
}
