package org.holtra.core.reading.proposal;

import java.time.DateTimeException;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;

/** Whether a value looks like a time, and in which form. */
final class TimeLook {

    /**
     * @param form in the setup's words; null for RFC 3339, which is the usual one
     */
    record Time(String form, String why) {}

    /** A clock from 2001 to 2065, in seconds; the usual span of a device's life. */
    private static final double FIRST = 1e9;

    private static final double LAST = 3e9;

    private static final Pattern LOCAL = Pattern.compile("\\d{4}-\\d\\d-\\d\\d([T ])\\d\\d:\\d\\d:\\d\\d");

    private static final List<String> NAMES = List.of(
            "measuredat",
            "time",
            "timestamp",
            "ts",
            "at",
            "t",
            "datetime",
            "date",
            "epoch",
            "sampletime",
            "receivedat",
            "received",
            "sentat");

    private TimeLook() {}

    static Optional<Time> at(Object value) {
        return switch (value) {
            case Number number -> epoch(number.doubleValue());
            case String text when text.matches("[0-9]{10,19}") -> epoch(Double.parseDouble(text));
            case String text -> written(text);
            default -> Optional.empty();
        };
    }

    /** The likelier the name is that of the time of measurement, the lower. */
    static int rank(String name) {
        int at = NAMES.indexOf(name);
        return at < 0 ? NAMES.size() : at;
    }

    private static Optional<Time> epoch(double number) {
        if (number >= FIRST && number < LAST) {
            return Optional.of(new Time("seconds", "seconds since 1970"));
        }
        if (number >= FIRST * 1e3 && number < LAST * 1e3) {
            return Optional.of(new Time("millis", "milliseconds since 1970"));
        }
        return number >= FIRST * 1e9 && number < LAST * 1e9
                ? Optional.of(new Time("nanos", "nanoseconds since 1970"))
                : Optional.empty();
    }

    private static Optional<Time> written(String text) {
        if (text.length() > 40 || !text.matches("\\d{4}-.*")) {
            return Optional.empty();
        }
        try {
            OffsetDateTime.parse(text);
            return Optional.of(new Time(null, "a time with its offset"));
        } catch (DateTimeException e) {
            var local = LOCAL.matcher(text);
            return local.matches()
                    ? Optional.of(new Time(
                            local.group(1).equals("T") ? "yyyy-MM-dd'T'HH:mm:ss" : "yyyy-MM-dd HH:mm:ss",
                            "a local time; say in which zone"))
                    : Optional.empty();
        }
    }
}
