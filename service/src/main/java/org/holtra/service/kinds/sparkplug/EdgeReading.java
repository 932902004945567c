package org.holtra.service.kinds.sparkplug;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.service.dispatch.ShapedJson;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a lane's shape makes for an edge node to publish: {@code {"device": …, "time": …, "metrics": {…}}}.
 *
 * @param metrics by name; numbers, booleans, texts and null
 */
record EdgeReading(String device, Instant time, Map<String, Object> metrics) {

    private static final JsonMapper JSON = JsonMapper.shared();

    /** @throws IllegalArgumentException if it is none, with a sentence for people */
    static EdgeReading of(byte[] body) {
        Object read = ShapedJson.of(body);
        if (!(read instanceof Map<?, ?> object) || !(object.get("metrics") instanceof Map<?, ?> said)) {
            throw new IllegalArgumentException("the lane's shape has to make an object with device, time and metrics");
        }
        Object device = object.get("device");
        if (device == null || device.toString().isBlank()) {
            throw new IllegalArgumentException("the lane's shape names no device; give it as \"${device.key}\"");
        }
        Map<String, Object> metrics = new LinkedHashMap<>();
        flatten("", said, metrics);
        if (metrics.isEmpty()) {
            throw new IllegalArgumentException("the lane's shape makes no metric");
        }
        return new EdgeReading(EdgeTarget.level(device.toString()), time(object.get("time")), metrics);
    }

    /** Names of metrics are paths: what is nested stands under its name and a slash. */
    private static void flatten(String under, Map<?, ?> object, Map<String, Object> into) {
        object.forEach((name, value) -> {
            switch (value) {
                case Map<?, ?> inner -> flatten(under + name + "/", inner, into);
                case List<?> list -> into.put(under + name, JSON.writeValueAsString(list));
                case null, default -> into.put(under + name, value);
            }
        });
    }

    private static Instant time(Object said) {
        if (said == null) {
            throw new IllegalArgumentException("the lane's shape makes no time; give it as \"${meta.eventTime}\"");
        }
        try {
            return OffsetDateTime.parse(said.toString()).toInstant();
        } catch (DateTimeException e) {
            throw new IllegalArgumentException("`" + said + "` is no time; write it as RFC 3339 has it", e);
        }
    }
}
