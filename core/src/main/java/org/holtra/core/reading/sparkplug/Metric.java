package org.holtra.core.reading.sparkplug;

import java.util.Map;

/**
 * A metric as it stands in a payload.
 *
 * @param name null where only its alias is sent
 * @param alias null where it has none
 * @param timestamp in milliseconds since 1970; null where the payload's is meant
 * @param type null where it is not sent, as in data messages: then that of the birth counts
 * @param historical whether it is sent late, and is not the newest value
 * @param transientValue whether a host is not to keep it in a historian
 * @param raw null for none; else as it was sent: Long (int_value and long_value), Float, Double, Boolean, String, byte[],
 *     {@link DataSet} or {@link Template}
 * @param properties by name, as values that JSON knows
 */
public record Metric(
        String name,
        Long alias,
        Long timestamp,
        MetricType type,
        boolean historical,
        boolean transientValue,
        Object raw,
        Map<String, Object> properties) {

    /** A table of values. */
    public record DataSet(
            java.util.List<String> columns,
            java.util.List<MetricType> types,
            java.util.List<java.util.List<Object>> rows) {}

    /**
     * An instance or a definition of a template.
     *
     * @param reference to its definition; null for a definition
     * @param parameters by name, as values that JSON knows
     */
    public record Template(
            String reference, boolean definition, java.util.List<Metric> metrics, Map<String, Object> parameters) {}

    /** The same under the name and type that its birth gave. */
    Metric known(String itsName, MetricType itsType) {
        return new Metric(
                itsName, alias, timestamp, type == null ? itsType : type, historical, transientValue, raw, properties);
    }

    /** As JSON knows it; null for none. */
    public Object value() {
        return MetricValue.of(raw, type);
    }
}
