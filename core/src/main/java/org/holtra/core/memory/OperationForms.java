package org.holtra.core.memory;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** Operations as they are stored: as JSON, with its names in the order of the alphabet. */
public final class OperationForms {

    static final int VERSION = 1;

    private static final JsonMapper JSON = JsonMapper.builder()
            .enable(SerializationFeature.ORDER_MAP_ENTRIES_BY_KEYS)
            .build();

    private OperationForms() {}

    /** The stored form. */
    public static String write(Operation<?> operation) {
        return JSON.writeValueAsString(operation.form());
    }

    /** The operation that was stored so; empty if this version knows of none, or it is none of a lane's. */
    public static Optional<Operation<?>> read(String text) {
        try {
            if (!(JSON.readValue(text, Object.class) instanceof Map<?, ?> map)
                    || !Integer.valueOf(VERSION).equals(map.get("version"))) {
                return Optional.empty();
            }
            Fields fields = new Fields(map);
            return Optional.ofNullable(
                    switch (String.valueOf(map.get("operation"))) {
                        case "downsample" -> downsample(fields);
                        case "changed" -> changed(fields);
                        case "join" -> join(fields);
                        case "increase" -> increase(fields);
                        default -> null;
                    });
        } catch (JacksonException | DateTimeException | IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** A form with its name, and without what is null. */
    static Map<String, Object> form(String name, Map<String, Object> fields) {
        Map<String, Object> form = new TreeMap<>(Map.of("operation", name, "version", VERSION));
        fields.forEach((field, value) -> {
            if (value != null) {
                form.put(field, value instanceof Duration || value instanceof ZoneId ? value.toString() : value);
            }
        });
        return form;
    }

    private record Fields(Map<?, ?> map) {

        String text(String name) {
            return map.get(name) == null ? null : map.get(name).toString();
        }

        Duration span(String name) {
            return text(name) == null ? null : Duration.parse(text(name));
        }

        Double number(String name) {
            return map.get(name) instanceof Number number ? (Double) number.doubleValue() : null;
        }

        ZoneId zone() {
            return text("zone") == null ? ZoneOffset.UTC : ZoneId.of(text("zone"));
        }

        <V> Map<String, V> entries(String name, Function<Object, V> value) {
            Map<String, V> entries = new LinkedHashMap<>();
            if (map.get(name) instanceof Map<?, ?> all) {
                all.forEach((key, one) -> entries.put(key.toString(), value.apply(one)));
            }
            return entries;
        }
    }

    private static Choice choice(Object word) {
        return Choice.of(word.toString()).orElseThrow(() -> new IllegalArgumentException("no choice: " + word));
    }

    private static Downsample downsample(Fields fields) {
        return new Downsample(
                Intervals.of(fields.text("intervals")),
                fields.span("length"),
                fields.zone(),
                fields.entries("fields", OperationForms::choice),
                fields.text("rest") == null ? null : choice(fields.text("rest")));
    }

    private static Changed changed(Fields fields) {
        return new Changed(
                fields.entries("bands", one -> {
                    String text = one.toString();
                    boolean perCent = text.endsWith("%");
                    return new Changed.Band(Double.parseDouble(perCent ? text.replace("%", "") : text), perCent);
                }),
                fields.entries("crossings", one -> ((Number) one).doubleValue()),
                fields.span("longest"));
    }

    private static Join join(Fields fields) {
        Set<String> expected = new LinkedHashSet<>();
        if (fields.map.get("fields") instanceof List<?> names) {
            names.forEach(name -> expected.add(name.toString()));
        }
        Double count = fields.number("count");
        return new Join(
                expected,
                count == null ? null : (Integer) count.intValue(),
                fields.span("within"),
                Join.Incomplete.of(fields.text("incomplete")).orElseThrow(),
                Join.Differing.of(fields.text("differing")).orElseThrow());
    }

    private static Increase increase(Fields fields) {
        return new Increase(
                fields.entries("counters", Object::toString),
                Intervals.of(fields.text("intervals")),
                fields.zone(),
                fields.number("rollsAt"),
                fields.span("gapAfter"),
                Boolean.TRUE.equals(fields.map.get("spreads")));
    }
}
