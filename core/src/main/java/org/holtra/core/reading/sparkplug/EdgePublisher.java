package org.holtra.core.reading.sparkplug;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.core.reading.sparkplug.SparkplugTopic.Type;

/**
 * What an edge node has to publish (Sparkplug 3.0, sections 5.4 to 5.9): a birth before data, with every metric and its type;
 * one sequence over all of it; values that are older than the newest marked as historical. A metric that a birth did not name,
 * or that has another type by now, makes a new birth of its device. Not safe for use by several threads.
 */
public final class EdgePublisher {

    private static final int NUMBERS = 256;

    /** By which a host asks for births. */
    public static final String REBIRTH = "Node Control/Rebirth";

    /** Something to publish. */
    public record Publication(SparkplugTopic topic, Payload payload) {}

    /** What was published of a device last. */
    private static final class Device {
        private final Map<String, Metric> metrics = new LinkedHashMap<>();
        private boolean born;
        private long newest = Long.MIN_VALUE;
    }

    private final String group;
    private final String node;
    private final Set<String> whole;
    private final Map<String, Device> devices = new LinkedHashMap<>();
    private long connection;
    private long sequence;

    /**
     * @param whole names of metrics that are whole numbers; others are decimals, since a metric keeps its type
     * @param connection the number of the last connection, from 0 to 255; the next one gets another
     */
    public EdgePublisher(String group, String node, Set<String> whole, long connection) {
        this.group = group;
        this.node = node;
        this.whole = whole;
        this.connection = Math.floorMod(connection, NUMBERS);
    }

    /** Another connection is made: its will, which the broker publishes when it breaks. */
    public Publication connecting(long now) {
        connection = (connection + 1) % NUMBERS;
        return death(now);
    }

    /** By its number a host knows which connection it is the end of. */
    public Publication death(long now) {
        return new Publication(topic(Type.NDEATH, null), new Payload(now, List.of(connectionNumber(now)), null));
    }

    private Metric connectionNumber(long now) {
        return new Metric(
                Payload.BIRTH_DEATH_SEQUENCE, null, now, MetricType.INT64, false, false, connection, Map.of());
    }

    /** Births of the node and of all its devices: when a connection was made, and when a host asks for them. */
    public List<Publication> births(long now) {
        sequence = 0;
        Metric rebirth = new Metric(REBIRTH, null, now, MetricType.BOOLEAN, false, false, false, Map.of());
        List<Publication> births = new ArrayList<>();
        births.add(new Publication(
                topic(Type.NBIRTH, null), new Payload(now, List.of(connectionNumber(now), rebirth), next())));
        devices.forEach((name, device) -> births.add(birth(name, device, now)));
        return births;
    }

    /**
     * Values of a device.
     *
     * @param values by metric; numbers, booleans, texts, and null for none
     * @param at when they were measured, in milliseconds since 1970
     * @throws IllegalArgumentException for a metric that is to be a whole number and is none
     */
    public List<Publication> data(String name, Map<String, Object> values, long at, long now) {
        Device device = devices.getOrDefault(name, new Device());
        boolean historical = at < device.newest;
        List<Metric> metrics = metrics(device, values, at, historical);
        boolean unknown = !device.born
                || metrics.stream()
                        .anyMatch(metric -> !device.metrics.containsKey(metric.name())
                                || device.metrics.get(metric.name()).type() != metric.type());
        devices.putIfAbsent(name, device);
        for (Metric metric : metrics) {
            Metric known = device.metrics.get(metric.name());
            if (!historical) {
                device.metrics.put(metric.name(), metric);
            } else if (known == null || known.type() != metric.type()) {
                // Its birth names it without a value: the one at hand is not its newest.
                device.metrics.put(metric.name(), valueless(metric));
            }
        }
        device.newest = Math.max(device.newest, at);
        List<Publication> publications = new ArrayList<>();
        if (unknown) {
            publications.add(birth(name, device, now));
        }
        if (!unknown || historical) {
            publications.add(new Publication(topic(Type.DDATA, name), new Payload(now, metrics, next())));
        }
        return publications;
    }

    private static Metric valueless(Metric metric) {
        return new Metric(metric.name(), null, metric.timestamp(), metric.type(), false, false, null, Map.of());
    }

    private Publication birth(String name, Device device, long now) {
        device.born = true;
        return new Publication(
                topic(Type.DBIRTH, name), new Payload(now, List.copyOf(device.metrics.values()), next()));
    }

    private List<Metric> metrics(Device device, Map<String, Object> values, long at, boolean historical) {
        List<Metric> metrics = new ArrayList<>();
        values.forEach((name, value) -> {
            Metric known = device.metrics.get(name);
            MetricType type = value == null && known != null ? known.type() : type(name, value);
            metrics.add(new Metric(name, null, at, type, historical, false, raw(name, value), Map.of()));
        });
        return metrics;
    }

    private MetricType type(String name, Object value) {
        return switch (value) {
            case Boolean ignored -> MetricType.BOOLEAN;
            case Number ignored -> whole.contains(name) ? MetricType.INT64 : MetricType.DOUBLE;
            case null, default -> MetricType.STRING;
        };
    }

    private Object raw(String name, Object value) {
        return switch (value) {
            case null -> null;
            case Boolean truth -> truth;
            case Number number when whole.contains(name) -> whole(name, number);
            case Number number -> number.doubleValue();
            default -> value.toString();
        };
    }

    private static long whole(String name, Number number) {
        if (number.doubleValue() != Math.rint(number.doubleValue())) {
            throw new IllegalArgumentException("metric `" + name + "` is to be a whole number, and is " + number);
        }
        return number.longValue();
    }

    private SparkplugTopic topic(Type type, String device) {
        return new SparkplugTopic(group, type, node, device);
    }

    private long next() {
        long number = sequence;
        sequence = (sequence + 1) % NUMBERS;
        return number;
    }
}
