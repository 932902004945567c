package org.holtra.core.expression;

import static dev.cel.common.types.SimpleType.INT;
import static dev.cel.common.types.SimpleType.STRING;
import static dev.cel.common.types.SimpleType.TIMESTAMP;

import dev.cel.common.types.CelType;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.TemporalAccessor;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Times written and read in other ways than RFC 3339. Patterns are those of Unicode's date formats (UTS 35), as
 * {@link DateTimeFormatter} takes them; zones are names of the time zone database or offsets such as {@code +02:00}.
 */
final class TimeFunctions {

    private static final int MOST_KEPT = 1_000;
    private static final Map<String, DateTimeFormatter> FORMATS = new ConcurrentHashMap<>();

    private TimeFunctions() {}

    static List<OwnFunction> all() {
        return List.of(
                OwnFunctions.function(
                        "formatTime",
                        format(TIMESTAMP, List.of(STRING)),
                        format(STRING, List.of(STRING)),
                        format(TIMESTAMP, List.of(STRING, STRING)),
                        format(STRING, List.of(STRING, STRING))),
                OwnFunctions.function(
                        "parseTime",
                        new OwnFunction.Overload(
                                TIMESTAMP,
                                List.of(STRING, STRING),
                                given -> parsed((String) given[0], (String) given[1], "UTC")),
                        new OwnFunction.Overload(
                                TIMESTAMP,
                                List.of(STRING, STRING, STRING),
                                given -> parsed((String) given[0], (String) given[1], (String) given[2]))),
                OwnFunctions.function("seconds", since(TIMESTAMP, 1_000), since(STRING, 1_000)),
                OwnFunctions.function("millis", since(TIMESTAMP, 1), since(STRING, 1)));
    }

    private static OwnFunction.Overload format(CelType time, List<CelType> rest) {
        List<CelType> takes = rest.size() == 1 ? List.of(time, STRING) : List.of(time, STRING, STRING);
        return new OwnFunction.Overload(
                STRING,
                takes,
                given -> formatter((String) given[1])
                        .format(instant(given[0]).atZone(zone(given.length == 3 ? (String) given[2] : "UTC"))));
    }

    private static OwnFunction.Overload since(CelType time, long millis) {
        return new OwnFunction.Overload(
                INT, List.of(time), given -> Math.floorDiv(instant(given[0]).toEpochMilli(), millis));
    }

    private static Instant instant(Object given) {
        if (given instanceof Instant instant) {
            return instant;
        }
        try {
            return OffsetDateTime.parse((String) given).toInstant();
        } catch (DateTimeException e) {
            throw new IllegalArgumentException(Plain.brief(given) + " is not a time as RFC 3339 writes it");
        }
    }

    private static Instant parsed(String text, String pattern, String zone) {
        try {
            TemporalAccessor found =
                    formatter(pattern).parseBest(text, ZonedDateTime::from, LocalDateTime::from, LocalDate::from);
            return switch (found) {
                case ZonedDateTime zoned -> zoned.toInstant();
                case LocalDateTime local -> local.atZone(zone(zone)).toInstant();
                default -> LocalDate.from(found).atStartOfDay(zone(zone)).toInstant();
            };
        } catch (DateTimeException e) {
            throw new IllegalArgumentException(Plain.brief(text) + " is not a time written as `" + pattern + "`");
        }
    }

    private static DateTimeFormatter formatter(String pattern) {
        DateTimeFormatter known = FORMATS.get(pattern);
        if (known != null) {
            return known;
        }
        try {
            DateTimeFormatter made = DateTimeFormatter.ofPattern(pattern, Locale.ROOT);
            if (FORMATS.size() < MOST_KEPT) {
                FORMATS.put(pattern, made);
            }
            return made;
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException("`" + pattern + "` is not a pattern for times");
        }
    }

    private static ZoneId zone(String name) {
        try {
            return ZoneId.of(name);
        } catch (DateTimeException e) {
            throw new IllegalArgumentException("there is no time zone `" + name + "`");
        }
    }
}
