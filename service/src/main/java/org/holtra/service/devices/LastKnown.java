package org.holtra.service.devices;

import java.time.Duration;
import java.time.Instant;
import java.util.AbstractMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;

/**
 * What a device said last, as expressions see it: of each field its value, its time and its age. Put together when somebody
 * looks at it, which most expressions do not.
 */
final class LastKnown extends AbstractMap<String, Object> {

    static final String VALUE = "value";
    static final String TIME = "time";
    static final String AGE = "age";

    private final DeviceLife life;
    private final Instant now;
    private Map<String, Object> fields;

    LastKnown(DeviceLife life, Instant now) {
        this.life = life;
        this.now = now;
    }

    private Map<String, Object> fields() {
        if (fields == null) {
            Map<String, Object> all = new LinkedHashMap<>();
            life.values().forEach((name, last) -> put(all, name.split("\\."), last));
            fields = all;
        }
        return fields;
    }

    @SuppressWarnings("unchecked")
    private void put(Map<String, Object> all, String[] path, DeviceLife.Value last) {
        Map<String, Object> at = all;
        for (String name : path) {
            at = (Map<String, Object>) at.computeIfAbsent(name, fresh -> new LinkedHashMap<String, Object>());
        }
        // Numbers of data are decimals to expressions; so are those that were kept.
        at.put(VALUE, last.value() instanceof Number number ? (Object) number.doubleValue() : last.value());
        at.put(TIME, last.at());
        at.put(AGE, Duration.between(last.at(), now));
    }

    @Override
    public Object get(Object name) {
        return fields().get(name);
    }

    @Override
    public boolean containsKey(Object name) {
        return fields().containsKey(name);
    }

    @Override
    public Set<Entry<String, Object>> entrySet() {
        return fields().entrySet();
    }
}
