package org.holtra.service.kinds.timeseries;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.holtra.service.dispatch.ShapedJson;
import org.holtra.service.dispatch.Tag;
import tools.jackson.databind.json.JsonMapper;

/**
 * Writes what a lane's shape made as lines of measurement, tags, fields and time, as time-series databases take them: {@code
 * climate,site=north air=4.5,open=true 1777629600000000000}. Commas, spaces and equals signs in names and tags are escaped by a
 * backslash, quotation marks and backslashes in texts likewise; the time is in nanoseconds since 1970.
 *
 * @param measurement where the shape names none; null for none
 * @param whole names of fields that are whole numbers to the database; others are decimals, for a field is of one type for ever
 */
record LineFormat(String measurement, Set<String> whole) {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final long NANOS = 1_000_000_000L;

    /**
     * @param body an object with {@code measurement}, {@code tags}, {@code fields} and {@code time}, or a list of such
     * @throws IllegalArgumentException if it is none, with a sentence for people
     */
    String lines(byte[] body) {
        List<String> lines = new ArrayList<>();
        for (Object one : points(body)) {
            lines.add(line(one));
        }
        if (lines.isEmpty()) {
            throw new IllegalArgumentException("the lane's shape makes an empty list");
        }
        return String.join("\n", lines);
    }

    /** The series that a body would write, each field of each point for itself; none if it is no such body. */
    List<Tag> tags(byte[] body) {
        List<Tag> series = new ArrayList<>();
        for (Object one : points(body)) {
            if (one instanceof Map<?, ?> point && point.get("fields") instanceof Map<?, ?> fields) {
                String name = series(point);
                fields.forEach((field, value) -> {
                    if (value != null) {
                        series.add(new Tag(name + " " + field, value));
                    }
                });
            }
        }
        return series;
    }

    private String series(Map<?, ?> point) {
        StringBuilder name = new StringBuilder(
                String.valueOf(point.get("measurement") == null ? measurement : point.get("measurement")));
        tags(point.get("tags"))
                .forEach(
                        (tag, value) -> name.append(',').append(tag).append('=').append(value));
        return name.toString();
    }

    private static List<?> points(byte[] body) {
        Object read = ShapedJson.of(body);
        return read instanceof List<?> list ? list : java.util.Collections.singletonList(read);
    }

    private String line(Object one) {
        if (!(one instanceof Map<?, ?> point)) {
            throw new IllegalArgumentException(
                    "the lane's shape has to make an object with measurement, tags, fields and time, or a list of such");
        }
        Object named = point.get("measurement") == null ? measurement : point.get("measurement");
        if (named == null || named.toString().isEmpty()) {
            throw new IllegalArgumentException("neither the lane's shape nor the outlet names a measurement");
        }
        StringBuilder line = new StringBuilder(escaped(named.toString(), ", "));
        tags(point.get("tags"))
                .forEach((name, value) -> line.append(',')
                        .append(escaped(name, ",= "))
                        .append('=')
                        .append(escaped(value, ",= ")));
        return line.append(' ')
                .append(fields(point.get("fields")))
                .append(' ')
                .append(nanos(point.get("time")))
                .toString();
    }

    /** In the order of their names, which databases read fastest. A tag without a value is none. */
    private static Map<String, String> tags(Object said) {
        Map<String, String> tags = new TreeMap<>();
        if (said instanceof Map<?, ?> all) {
            all.forEach((name, value) -> {
                if (value != null && !value.toString().isEmpty()) {
                    tags.put(name.toString(), value.toString());
                }
            });
        }
        return tags;
    }

    private String fields(Object said) {
        List<String> fields = new ArrayList<>();
        if (said instanceof Map<?, ?> all) {
            all.forEach((name, value) -> {
                if (value != null) {
                    fields.add(escaped(name.toString(), ",= ") + "=" + field(name.toString(), value));
                }
            });
        }
        if (fields.isEmpty()) {
            throw new IllegalArgumentException("the lane's shape makes no field that has a value");
        }
        return String.join(",", fields);
    }

    private String field(String name, Object value) {
        return switch (value) {
            case Boolean truth -> truth.toString();
            case Number number when whole.contains(name) -> whole(name, number) + "i";
            case Number number -> number(number);
            case Map<?, ?> object -> quoted(JSON.writeValueAsString(object));
            case List<?> list -> quoted(JSON.writeValueAsString(list));
            default -> quoted(value.toString());
        };
    }

    private static String whole(String name, Number number) {
        try {
            return new BigDecimal(number.toString()).toBigIntegerExact().toString();
        } catch (ArithmeticException e) {
            throw new IllegalArgumentException("field `" + name + "` is to be a whole number, and is " + number, e);
        }
    }

    private static String number(Number number) {
        return number instanceof Double decimal && decimal == Math.rint(decimal) && Math.abs(decimal) < 1e15
                ? Long.toString(decimal.longValue())
                : number.toString();
    }

    private static String quoted(String text) {
        return '"' + text.replace("\\", "\\\\").replace("\"", "\\\"") + '"';
    }

    private static String escaped(String text, String special) {
        if (text.endsWith("\\")) {
            throw new IllegalArgumentException(
                    "`" + text + "` ends with a backslash, which a line cannot say of a name or a tag");
        }
        StringBuilder escaped = new StringBuilder(text.length() + 4);
        for (char sign : text.toCharArray()) {
            // A line break would begin another point.
            char plain = sign == '\n' || sign == '\r' ? ' ' : sign;
            if (special.indexOf(plain) >= 0) {
                escaped.append('\\');
            }
            escaped.append(plain);
        }
        return escaped.toString();
    }

    private static String nanos(Object time) {
        Instant at = switch (time) {
            case null ->
                throw new IllegalArgumentException("the lane's shape makes no time; give it as \"${meta.eventTime}\"");
            case Number millis -> Instant.ofEpochMilli(millis.longValue());
            default -> read(time.toString());
        };
        return new BigDecimal(at.getEpochSecond())
                .multiply(new BigDecimal(NANOS))
                .add(new BigDecimal(at.getNano()))
                .toPlainString();
    }

    private static Instant read(String text) {
        try {
            return OffsetDateTime.parse(text).toInstant();
        } catch (DateTimeException e) {
            throw new IllegalArgumentException(
                    "`" + text + "` is no time; write it as RFC 3339 has it, or in milliseconds since 1970", e);
        }
    }
}
