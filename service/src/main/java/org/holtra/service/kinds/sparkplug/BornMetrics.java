package org.holtra.service.kinds.sparkplug;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.service.devices.FieldDescription;

/** What a birth says of its metrics, by the fields that they become. */
final class BornMetrics {

    /** The standard names no property for the unit; these are what edge nodes call it, whatever their case. */
    private static final Set<String> UNITS = Set.of("unit", "units", "engunit", "engunits", "engineeringunits");

    private BornMetrics() {}

    static Map<String, FieldDescription> described(List<Metric> born) {
        Map<String, FieldDescription> fields = new LinkedHashMap<>();
        for (Metric metric : born) {
            Map<String, Object> properties = new LinkedHashMap<>(metric.properties());
            String unit = properties.keySet().stream()
                    .filter(name -> UNITS.contains(name.toLowerCase(Locale.ROOT)))
                    .findFirst()
                    .map(name -> String.valueOf(properties.remove(name)))
                    .orElse(null);
            fields.put(
                    metric.name().replace('/', '.'),
                    new FieldDescription(
                            metric.type() == null ? null : metric.type().word(), unit, properties));
        }
        return fields;
    }
}
