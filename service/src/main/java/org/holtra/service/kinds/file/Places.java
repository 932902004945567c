package org.holtra.service.kinds.file;

import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * How far each file of a folder has been read, as an inlet's cursor holds it.
 *
 * @param files by name
 */
record Places(Map<String, Place> files) {

    /**
     * @param key of the file on its disk, which tells it from another that has its name later
     * @param bytes that have been read of it
     */
    record Place(String key, long bytes) {}

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<TreeMap<String, Place>> TYPE = new TypeReference<>() {};

    Places {
        files = Map.copyOf(files);
    }

    /** @param cursor empty before anything was read */
    static Places of(String cursor) {
        return new Places(cursor.isEmpty() ? Map.of() : JSON.readValue(cursor, TYPE));
    }

    String cursor() {
        return JSON.writeValueAsString(new TreeMap<>(files));
    }

    /** Up to where a file has been read: 0 if it is another than the one of that name that was read, or was cut short. */
    long read(String name, String key, long size) {
        Place place = files.get(name);
        return place == null || !place.key.equals(key) || place.bytes > size ? 0 : place.bytes;
    }

    Places with(String name, String key, long bytes) {
        Map<String, Place> next = new TreeMap<>(files);
        next.put(name, new Place(key, bytes));
        return new Places(next);
    }

    /** What is gone need not be remembered. */
    Places only(Set<String> names) {
        if (names.containsAll(files.keySet())) {
            return this;
        }
        Map<String, Place> next = new TreeMap<>(files);
        next.keySet().retainAll(names);
        return new Places(next);
    }
}
