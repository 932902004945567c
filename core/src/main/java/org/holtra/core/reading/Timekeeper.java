package org.holtra.core.reading;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.reading.time.EventTime;
import org.holtra.core.reading.time.TimeForm;
import org.holtra.core.setup.Inlet;

/** Tells when a message's content was measured, and whether that can be. */
final class Timekeeper {

    /**
     * @param clock how the time cannot be right: {@code ahead}, {@code behind}; or null
     * @param note for people, or null
     */
    record Measured(Instant at, String clock, String note) {}

    private static final Pattern LOCAL =
            Pattern.compile("\\d{4}-\\d\\d-\\d\\d([ T])\\d\\d:\\d\\d(:\\d\\d)?(\\.\\d{1,9})?");

    private Timekeeper() {}

    /** A time that cannot be told is no reason to lose a reading: the time of arrival stands in, and a note says so. */
    static Measured measured(Opened opened, Known known) {
        Inlet.Timing timing = opened.inlet().timing();
        Instant arrived = opened.arrival().received();
        if (timing.time() == null) {
            return new Measured(arrived, null, null);
        }
        return switch (timing.time().evaluate(opened.scope())) {
            case Outcome.None(String reason, boolean missing) -> standIn(arrived, reason);
            case Outcome.Value(Object value) -> {
                ZoneId zone = known.zone() == null ? timing.zone() : known.zone();
                TimeForm.Parsed told = timing.form().tell(value, zone);
                yield told.instant()
                        .map(at -> judged(at, arrived, known.installed(), told.note()))
                        .orElseGet(() -> standIn(arrived, whyNoTime(value)));
            }
        };
    }

    private static String whyNoTime(Object value) {
        Matcher local = LOCAL.matcher(value instanceof String text ? text.strip() : "");
        return !local.matches()
                ? Plain.brief(value) + " is not a time"
                : Plain.brief(value) + " is a local time without an offset; set the inlet's timeForm to \"yyyy-MM-dd"
                        + (local.group(1).equals("T") ? "'T'" : " ") + "HH:mm" + (local.group(2) == null ? "" : ":ss")
                        + (local.group(3) == null
                                ? ""
                                : "." + "S".repeat(local.group(3).length() - 1))
                        + "\", and its zone";
    }

    private static Measured judged(Instant at, Instant arrived, Instant installed, String note) {
        if (EventTime.isAhead(at, arrived)) {
            return new Measured(
                    at,
                    "ahead",
                    join(
                            note,
                            "the event time is " + words(Duration.between(arrived, at))
                                    + " after the arrival: the device's clock is ahead, or its time zone wrong"));
        }
        if (installed != null && at.isBefore(installed.minus(EventTime.CLOCKS_DIFFER))) {
            return new Measured(
                    at,
                    "behind",
                    join(
                            note,
                            "the event time is before the device was put in place, on " + installed
                                    + ": its clock is behind"));
        }
        return new Measured(at, null, note);
    }

    private static Measured standIn(Instant arrived, String reason) {
        return new Measured(
                arrived, null, "the event time could not be told, so the time of arrival stands for it: " + reason);
    }

    private static String join(String first, String second) {
        return first == null ? second : first + "; " + second;
    }

    private static String words(Duration time) {
        if (time.toHours() < 1) {
            return time.toMinutes() + " min";
        }
        return time.toDays() < 2 ? time.toHours() + " h " + time.toMinutesPart() + " min" : time.toDays() + " days";
    }
}
