package org.holtra.standins.historian;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import org.holtra.standins.historian.Historian.Sample;

/**
 * Reads points as time-series databases take them: a line each, {@code measurement,tag=value field=1.5,open=true 1777629600000000000};
 * commas, spaces and equals signs in names escaped by a backslash, texts in quotation marks, the time in nanoseconds since 1970.
 */
final class Points {

    private static final long NANOS_IN_A_MILLISECOND = 1_000_000L;

    private final String line;
    private int at;

    private Points(String line) {
        this.line = line;
    }

    /**
     * The samples of a body; a series is a measurement with its tags and a field. Texts are no samples.
     *
     * @throws IllegalArgumentException with the line that is none
     */
    static List<Sample> read(String body) {
        List<Sample> samples = new ArrayList<>();
        body.lines().filter(line -> !line.isBlank()).forEach(line -> samples.addAll(new Points(line).samples()));
        return samples;
    }

    private List<Sample> samples() {
        StringBuilder series = new StringBuilder(name(", "));
        TreeMap<String, String> tags = new TreeMap<>();
        while (peek() == ',') {
            at++;
            String tag = name("=");
            expect('=');
            tags.put(tag, name(", "));
        }
        tags.forEach((tag, value) -> series.append(',').append(tag).append('=').append(value));
        expect(' ');
        TreeMap<String, Double> values = new TreeMap<>();
        do {
            String field = name("=");
            expect('=');
            Double value = value();
            if (value != null) {
                values.put(field, value);
            }
        } while (more());
        expect(' ');
        long millis = time();
        return values.entrySet().stream()
                .map(field -> new Sample(series + " " + field.getKey(), millis, field.getValue()))
                .toList();
    }

    private boolean more() {
        boolean comma = peek() == ',';
        if (comma) {
            at++;
        }
        return comma;
    }

    private char peek() {
        return at < line.length() ? line.charAt(at) : 0;
    }

    private void expect(char sign) {
        if (peek() != sign) {
            throw new IllegalArgumentException("`" + line + "`: `" + sign + "` is missing at column " + (at + 1));
        }
        at++;
    }

    /** Up to one of these signs that is not escaped. */
    private String name(String ends) {
        StringBuilder name = new StringBuilder();
        while (at < line.length() && ends.indexOf(peek()) < 0) {
            if (peek() == '\\' && at + 1 < line.length() && ",= ".indexOf(line.charAt(at + 1)) >= 0) {
                at++;
            }
            name.append(line.charAt(at++));
        }
        if (name.isEmpty()) {
            throw new IllegalArgumentException("`" + line + "`: a name is missing at column " + (at + 1));
        }
        return name.toString();
    }

    /** Null for a text. */
    private Double value() {
        if (peek() == '"') {
            at++;
            while (peek() != '"') {
                if (at >= line.length()) {
                    throw new IllegalArgumentException("`" + line + "`: a text does not end");
                }
                at += peek() == '\\' ? 2 : 1;
            }
            at++;
            return null;
        }
        String value = name(", ");
        return switch (value) {
            case "true" -> 1.0;
            case "false" -> 0.0;
            default -> number(value.endsWith("i") ? value.substring(0, value.length() - 1) : value);
        };
    }

    private Double number(String value) {
        try {
            return Double.valueOf(value);
        } catch (NumberFormatException e) {
            throw new IllegalArgumentException("`" + line + "`: `" + value + "` is no number", e);
        }
    }

    private long time() {
        try {
            return Long.parseLong(line.substring(at)) / NANOS_IN_A_MILLISECOND;
        } catch (NumberFormatException e) {
            throw new IllegalArgumentException("`" + line + "`: its time is no number of nanoseconds", e);
        }
    }
}
