package org.holtra.service.brokers;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.PayloadReader;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.holtra.service.sharing.Look;
import org.holtra.service.sharing.Sighting;

/**
 * The topics that a broker was seen to carry, level by level. Holds {@value #MOST} levels, and counts what is under others: a
 * broker may have any number of topics. Used by one thread at a time, under its own lock.
 */
public final class TopicTree {

    public static final int MOST = 20_000;
    private static final int LONGEST_PAYLOAD = 200;

    /** Metrics can be read of a payload as a whole only. */
    private static final int LONGEST_OF_METRICS = 4_096;

    private static final int DEEPEST = 32;

    private static final class Level {

        private final String name;
        private final String topic;
        private final Map<String, Level> below = new TreeMap<>();
        private long messages;
        private long own;
        private byte[] last;
        private Instant lastAt;
        private boolean retained;

        Level(String name, String topic) {
            this.name = name;
            this.topic = topic;
        }

        int topics() {
            return (own > 0 ? 1 : 0)
                    + below.values().stream().mapToInt(Level::topics).sum();
        }
    }

    private final Level root = new Level("", "");
    private final int most;
    private int levels;
    private long beyond;

    public TopicTree() {
        this(MOST);
    }

    public TopicTree(int most) {
        this.most = most;
    }

    public synchronized void saw(String topic, byte[] payload, boolean retained, Instant at) {
        String[] names = topic.split("/", DEEPEST);
        List<Level> way = new ArrayList<>();
        Level level = root;
        for (String name : names) {
            Level next = level.below.get(name);
            if (next == null) {
                if (levels >= most) {
                    beyond++;
                    return;
                }
                levels++;
                next = new Level(name, way.isEmpty() ? name : level.topic + "/" + name);
                level.below.put(name, next);
            }
            way.add(next);
            level = next;
        }
        way.forEach(one -> one.messages++);
        level.own++;
        int kept = SparkplugTopic.of(topic).isPresent() ? LONGEST_OF_METRICS : LONGEST_PAYLOAD;
        level.last = payload.length > kept ? Arrays.copyOf(payload, kept) : payload;
        level.lastAt = at;
        level.retained = retained;
    }

    /** All topics that something came on. */
    public synchronized List<String> topics() {
        List<String> all = new ArrayList<>();
        collect(root, all);
        return all;
    }

    private static void collect(Level level, List<String> all) {
        if (level.own > 0) {
            all.add(level.topic);
        }
        level.below.values().forEach(one -> collect(one, all));
    }

    /**
     * As people are shown it.
     *
     * @param filter that was subscribed to
     * @param seconds for how long
     * @param breadth so many of a level's, those with the most messages; the others are counted
     * @param most so many in all
     */
    public synchronized Look look(String filter, double seconds, int breadth, int most) {
        int[] left = {most};
        List<Sighting> found = sightings(root, breadth, left);
        long messages =
                root.below.values().stream().mapToLong(one -> one.messages).sum() + beyond;
        return new Look(filter, seconds, messages, found, root.below.size() - found.size(), beyond);
    }

    private static List<Sighting> sightings(Level level, int breadth, int[] left) {
        List<Sighting> shown = new ArrayList<>();
        List<Level> byTraffic = level.below.values().stream()
                .sorted(Comparator.comparingLong((Level one) -> one.messages)
                        .reversed()
                        .thenComparing(one -> one.name))
                .limit(breadth)
                .toList();
        for (Level one : byTraffic) {
            if (left[0]-- <= 0) {
                break;
            }
            List<Sighting> below = one.below.isEmpty() ? metrics(one, breadth) : sightings(one, breadth, left);
            shown.add(new Sighting(
                    one.name,
                    one.topic,
                    one.messages,
                    one.topics(),
                    one.last == null ? null : shown(one.topic, one.last),
                    one.lastAt,
                    one.retained,
                    below,
                    one.below.isEmpty() ? 0 : one.below.size() - below.size()));
        }
        shown.sort(Comparator.comparing(Sighting::name));
        return shown;
    }

    /** Those of a payload of Sparkplug, by name; a name is no topic. */
    private static List<Sighting> metrics(Level level, int breadth) {
        if (level.last == null || SparkplugTopic.of(level.topic).isEmpty()) {
            return List.of();
        }
        try {
            return PayloadReader.read(level.last).metrics().stream()
                    .filter(metric -> metric.name() != null)
                    .limit(breadth)
                    .map(metric -> new Sighting(
                            metric.name(),
                            metric.name(),
                            level.messages,
                            0,
                            String.valueOf(metric.value()),
                            level.lastAt,
                            level.retained,
                            List.of(),
                            0))
                    .toList();
        } catch (PayloadReader.Unreadable e) {
            return List.of(); // what is shown of it says so
        }
    }

    /** Text as it is; metrics of Sparkplug with their values; other bytes in hexadecimal. */
    private static String shown(String topic, byte[] payload) {
        if (SparkplugTopic.of(topic).isPresent()) {
            try {
                return PayloadReader.read(payload).metrics().stream()
                        .map(TopicTree::metric)
                        .collect(Collectors.joining(", "));
            } catch (PayloadReader.Unreadable e) {
                return "no payload of Sparkplug B: " + hex(payload);
            }
        }
        String text = new String(payload, StandardCharsets.UTF_8);
        boolean readable = text.chars().noneMatch(c -> c == 0xFFFD || c < ' ' && c != '\n' && c != '\r' && c != '\t');
        // The last character of a payload that was cut may be half of one.
        boolean cut = payload.length == LONGEST_PAYLOAD && text.indexOf(0xFFFD) >= LONGEST_PAYLOAD - 4;
        return readable ? text : cut ? text.replaceAll("\uFFFD+$", "") : hex(payload);
    }

    private static String metric(Metric metric) {
        return (metric.name() == null ? "alias " + metric.alias() : metric.name()) + " = " + metric.value();
    }

    private static String hex(byte[] payload) {
        return java.util.HexFormat.ofDelimiter(" ").formatHex(payload, 0, Math.min(payload.length, 32))
                + (payload.length > 32 ? " …" : "");
    }
}
