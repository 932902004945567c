package org.holtra.service.kinds.sql;

import java.time.DateTimeException;
import java.time.OffsetDateTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.core.shape.Content;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** A table for what lanes would write, with types as their values look. */
final class TableProposal {

    private static final JsonMapper JSON = JsonMapper.shared();

    private TableProposal() {}

    /** The statement that makes it. */
    static String of(SqlTarget target, List<Content> samples) {
        Map<String, String> columns = new LinkedHashMap<>();
        columns.put(target.keyColumn(), target.updates().isEmpty() ? "text primary key" : "text");
        for (Content sample : samples) {
            values(sample)
                    .forEach((name, value) -> columns.merge(String.valueOf(name), type(value), TableProposal::wider));
        }
        if (samples.isEmpty()) {
            columns.put("device", "text");
            columns.put("measured", "timestamptz");
        }
        String listed = columns.entrySet().stream()
                .map(column -> SqlTarget.written(column.getKey()) + " " + column.getValue())
                .collect(Collectors.joining(", "));
        String unique = target.updates().isEmpty()
                ? ""
                : ", primary key ("
                        + target.updates().stream().map(SqlTarget::written).collect(Collectors.joining(", ")) + ")";
        return "create table " + target.table() + " (" + listed + unique + ");";
    }

    private static Map<?, ?> values(Content sample) {
        try {
            return sample.body() != null && JSON.readValue(sample.body(), Object.class) instanceof Map<?, ?> object
                    ? object
                    : Map.of();
        } catch (JacksonException e) {
            return Map.of(); // the check says so where it looks at the columns
        }
    }

    private static String type(Object value) {
        return switch (value) {
            case Boolean truth -> "boolean";
            case Number number -> "double precision";
            case Map<?, ?> object -> "jsonb";
            case List<?> list -> "jsonb";
            case String text when isTime(text) -> "timestamptz";
            case null, default -> "text";
        };
    }

    private static boolean isTime(String text) {
        try {
            return OffsetDateTime.parse(text) != null;
        } catch (DateTimeException e) {
            return false;
        }
    }

    private static String wider(String one, String other) {
        return one.equals(other) || one.startsWith("text ") ? one : "text";
    }
}
