package org.holtra.service.kinds.sparkplug;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Predicate;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a message of an edge node, or a part of one, becomes: the metrics of one moment as fields, or that somebody is online or
 * not.
 *
 * @param edge whom it is of: {@code group/node} or {@code group/node/device}
 * @param type {@code reading} or {@code status}
 * @param at when it was measured
 * @param historical whether it was sent late
 * @param fields by name; a name with slashes is a path
 */
record EdgeMessage(String edge, String type, Instant at, boolean historical, Map<String, Object> fields) {

    private static final JsonMapper JSON = JsonMapper.shared();

    private record Moment(long millis, boolean historical) {}

    static EdgeMessage online(String edge, Payload payload, boolean now, Instant heard) {
        Instant at = payload.timestamp() == null ? heard : Instant.ofEpochMilli(payload.timestamp());
        return new EdgeMessage(edge, "status", at, false, Map.of("online", now));
    }

    /**
     * One for each moment that its metrics were measured at, in the order in which they stand.
     *
     * @param wanted which metrics are taken
     */
    static List<EdgeMessage> readings(
            SparkplugTopic topic, Payload payload, List<Metric> metrics, Predicate<Metric> wanted, Instant heard) {
        long sent = payload.timestamp() == null ? heard.toEpochMilli() : payload.timestamp();
        Map<Moment, Map<String, Object>> byMoment = new LinkedHashMap<>();
        for (Metric metric : metrics) {
            if (wanted.test(metric)) {
                Moment moment = new Moment(metric.timestamp() == null ? sent : metric.timestamp(), metric.historical());
                put(
                        byMoment.computeIfAbsent(moment, its -> new LinkedHashMap<>()),
                        metric.name().split("/"),
                        metric.value());
            }
        }
        List<EdgeMessage> all = new ArrayList<>();
        byMoment.forEach((moment, fields) -> all.add(new EdgeMessage(
                topic.key(), "reading", Instant.ofEpochMilli(moment.millis), moment.historical, fields)));
        return all;
    }

    /** Where a metric has a value and others below its name, its own stands under an empty name. */
    @SuppressWarnings("unchecked")
    private static void put(Map<String, Object> fields, String[] path, Object value) {
        Map<String, Object> at = fields;
        for (int i = 0; i < path.length - 1; i++) {
            Object below = at.get(path[i]);
            if (!(below instanceof LinkedHashMap)) {
                Map<String, Object> made = new LinkedHashMap<>();
                if (below != null) {
                    made.put("", below);
                }
                at.put(path[i], made);
                below = made;
            }
            at = (Map<String, Object>) below;
        }
        String last = path.length == 0 ? "" : path[path.length - 1];
        if (at.get(last) instanceof LinkedHashMap<?, ?> deeper) {
            ((Map<String, Object>) deeper).put("", value);
        } else {
            at.put(last, value);
        }
    }

    byte[] body() {
        return JSON.writeValueAsBytes(fields);
    }
}
