package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import tools.jackson.databind.JsonNode;

/** How values are written for people. Times stand in the zone of whoever reads them. */
final class Words {

    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("HH:mm:ss.SSS");
    private static final DateTimeFormatter DATE_TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss");

    private Words() {}

    static String time(JsonNode instant) {
        return instant(instant, TIME);
    }

    static String dateTime(JsonNode instant) {
        return instant(instant, DATE_TIME);
    }

    private static String instant(JsonNode instant, DateTimeFormatter format) {
        String text = instant.asString("");
        return text.isEmpty() ? "" : format.format(Instant.parse(text).atZone(ZoneId.systemDefault()));
    }

    /** How long ago an instant was, or in how long it will be, in its largest unit or two. */
    static String since(JsonNode instant) {
        String text = instant.asString("");
        if (text.isEmpty()) {
            return "";
        }
        Duration past = Duration.between(Instant.parse(text), Instant.now());
        return past.isNegative() ? "in " + length(past.negated()) : length(past) + " ago";
    }

    static String length(Duration duration) {
        long seconds = duration.toSeconds();
        if (seconds < 120) {
            return seconds + " s";
        }
        if (seconds < 2 * 3600) {
            return seconds / 60 + " min";
        }
        return seconds < 48 * 3600 ? seconds / 3600 + " h" : seconds / 86400 + " days";
    }

    static String millis(long micros) {
        return String.format(Locale.ROOT, micros < 10_000 ? "%.1f ms" : "%.0f ms", micros / 1000.0);
    }

    /** The style of a delivery's state. */
    static String style(String state) {
        return switch (state) {
            case "delivered" -> "green";
            case "dead" -> "red";
            case "waiting" -> "yellow";
            default -> "faint";
        };
    }
}
