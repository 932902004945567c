package org.holtra.core.reading.sparkplug;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * What a host application knows of one edge node: whether it is online, what its aliases stand for, and which number its next message
 * has (Sparkplug 3.0, sections 5 and 6.4). Not safe for use by several threads.
 */
public final class EdgeNode {

    private static final long SEQUENCES = 256;

    private record Known(String name, MetricType type) {}

    /** The aliases of a node are its own and those of all its devices. */
    private final Map<Long, Known> aliases = new HashMap<>();

    /** Types by the key of whom they are of, and the name. */
    private final Map<String, Map<String, MetricType>> types = new HashMap<>();

    private final Set<String> devicesOnline = new HashSet<>();
    private boolean online;
    private Long birthDeathSequence;
    private long next;

    /** What a message comes to. */
    public sealed interface Outcome {

        /** Its metrics, each under its name and with its type. */
        record Metrics(List<Metric> metrics) implements Outcome {}

        /** It, or a device of it, is online or no more. */
        record Online(boolean now, List<Metric> metrics) implements Outcome {}

        /** What it says cannot be understood without a new birth, which is to be asked for. */
        record Rebirth(String why) implements Outcome {}

        /** It is about a connection that has been replaced. */
        record Ignored(String why) implements Outcome {}
    }

    public boolean isOnline() {
        return online;
    }

    /** Those of its devices that are online. */
    public Set<String> devicesOnline() {
        return Set.copyOf(devicesOnline);
    }

    /** Takes a message of this node or of one of its devices. */
    public Outcome take(SparkplugTopic topic, Payload payload) {
        return switch (topic.type()) {
            case NBIRTH -> born(topic, payload);
            case NDEATH -> dead(payload);
            case DBIRTH, DDEATH, NDATA, DDATA -> numbered(topic, payload);
            case NCMD, DCMD -> new Outcome.Ignored("a command is for the node, and not from it");
        };
    }

    private Outcome born(SparkplugTopic topic, Payload payload) {
        aliases.clear();
        types.clear();
        devicesOnline.clear();
        online = true;
        birthDeathSequence = payload.birthDeathSequence().orElse(null);
        next = payload.sequence() == null ? 1 : (payload.sequence() + 1) % SEQUENCES;
        return new Outcome.Online(true, learned(topic.key(), payload.metrics()));
    }

    private Outcome dead(Payload payload) {
        Long its = payload.birthDeathSequence().orElse(null);
        if (online && birthDeathSequence != null && its != null && !its.equals(birthDeathSequence)) {
            return new Outcome.Ignored(
                    "the death is that of connection " + its + ", and the node was born anew as " + birthDeathSequence);
        }
        online = false;
        devicesOnline.clear();
        return new Outcome.Online(false, List.of());
    }

    private Outcome numbered(SparkplugTopic topic, Payload payload) {
        if (!online) {
            return new Outcome.Rebirth("its birth was not heard");
        }
        if (payload.sequence() != null && payload.sequence() != next) {
            String why = "message " + next + " is missing: " + payload.sequence() + " came";
            online = false;
            return new Outcome.Rebirth(why);
        }
        next = (next + 1) % SEQUENCES;
        return switch (topic.type()) {
            case DBIRTH -> {
                devicesOnline.add(topic.device());
                yield new Outcome.Online(true, learned(topic.key(), payload.metrics()));
            }
            case DDEATH -> {
                devicesOnline.remove(topic.device());
                yield new Outcome.Online(false, List.of());
            }
            default -> data(topic, payload);
        };
    }

    private Outcome data(SparkplugTopic topic, Payload payload) {
        if (topic.device() != null && !devicesOnline.contains(topic.device())) {
            return new Outcome.Rebirth("the birth of its device " + topic.device() + " was not heard");
        }
        List<Metric> metrics = new ArrayList<>(payload.metrics().size());
        for (Metric metric : payload.metrics()) {
            Metric known = known(topic.key(), metric);
            if (known == null) {
                return new Outcome.Rebirth("nobody said what its alias " + metric.alias() + " stands for");
            }
            metrics.add(known);
        }
        return new Outcome.Metrics(metrics);
    }

    /** Null if it has neither a name nor an alias that is known. */
    private Metric known(String of, Metric metric) {
        if (metric.name() != null && !metric.name().isEmpty()) {
            return metric.known(metric.name(), types.getOrDefault(of, Map.of()).get(metric.name()));
        }
        Known birth = metric.alias() == null ? null : aliases.get(metric.alias());
        return birth == null ? null : metric.known(birth.name, birth.type);
    }

    private List<Metric> learned(String of, List<Metric> metrics) {
        Map<String, MetricType> its = new HashMap<>();
        types.put(of, its);
        List<Metric> named = new ArrayList<>(metrics.size());
        for (Metric metric : metrics) {
            if (metric.name() == null) {
                continue; // a birth has to name its metrics
            }
            if (metric.alias() != null) {
                aliases.put(metric.alias(), new Known(metric.name(), metric.type()));
            }
            its.put(metric.name(), metric.type());
            named.add(metric);
        }
        return named;
    }
}
