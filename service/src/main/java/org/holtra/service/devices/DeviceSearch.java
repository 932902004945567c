package org.holtra.service.devices;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import org.holtra.service.database.CachedValue;
import org.springframework.stereotype.Component;

/**
 * Devices page by page, all or those that fit. What fits is looked for once for all who ask for the same, and not each time
 * where there are so many devices that it takes long.
 */
@Component
public class DeviceSearch {

    /**
     * What is wanted; a part that is null does not matter.
     *
     * @param search words that must each stand in the key, the model or a fact
     */
    public record Wanted(String search, String state, String model) {

        boolean isAll() {
            return search == null && state == null && model == null;
        }
    }

    /**
     * @param total of those that fit
     * @param next to go on after; null if these are the last
     */
    public record Page(List<Device> devices, int total, String next) {}

    private static final int SEARCHES_KEPT = 50;

    private final DeviceRegistry registry;
    private final DeviceLives lives;
    private final Map<Wanted, CachedValue<List<String>>> searches = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Wanted, CachedValue<List<String>>> eldest) {
            return size() > SEARCHES_KEPT;
        }
    };

    DeviceSearch(DeviceRegistry registry, DeviceLives lives) {
        this.registry = registry;
        this.lives = lives;
    }

    /** @param after the key to go on after; null to begin */
    public Page page(Wanted wanted, String after, int limit) {
        if (wanted.isAll()) {
            return page(registry.after(after, limit), registry.count(), limit);
        }
        List<String> keys = search(wanted).get();
        List<Device> devices = keys.stream()
                .filter(key -> after == null || key.compareTo(after) > 0)
                .limit(limit)
                .map(key -> registry.find(key).orElse(null))
                .filter(Objects::nonNull)
                .toList();
        return page(devices, keys.size(), limit);
    }

    private static Page page(List<Device> devices, int total, int limit) {
        return new Page(
                devices,
                total,
                devices.size() < limit ? null : devices.getLast().key());
    }

    private CachedValue<List<String>> search(Wanted wanted) {
        synchronized (searches) {
            return searches.computeIfAbsent(wanted, one -> new CachedValue<>(() -> fitting(one), System::nanoTime));
        }
    }

    private List<String> fitting(Wanted wanted) {
        List<String> words = wanted.search == null
                ? List.of()
                : List.of(wanted.search.strip().toLowerCase(Locale.ROOT).split("\\s+"));
        return registry.all().stream()
                .filter(device -> (wanted.model == null || wanted.model.equals(device.model()))
                        && (wanted.state == null || wanted.state.equals(device.state(lives.of(device.key()))))
                        && words.stream().allMatch(word -> holds(device, word)))
                .map(Device::key)
                .toList();
    }

    private static boolean holds(Device device, String word) {
        return device.key().toLowerCase(Locale.ROOT).contains(word)
                || device.model() != null
                        && device.model().toLowerCase(Locale.ROOT).contains(word)
                || device.knowledge().facts().entrySet().stream()
                        .anyMatch(fact -> (fact.getKey() + "=" + fact.getValue())
                                .toLowerCase(Locale.ROOT)
                                .contains(word));
    }
}
