package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZonedDateTime;

/**
 * Stretches of time that follow each other, told by the clock on a wall: fifteen minutes, hours, days, months. Where clocks
 * are set forward or back, a day has 23 or 25 hours, and its stretches of less than a day follow the time that passes.
 */
public sealed interface Intervals {

    /** From a time on, up to but without another. */
    record Interval(Instant from, Instant to) {}

    /** The one in which an instant lies. */
    Interval of(Instant at, ZoneId zone);

    /** The word for it in a stored form; a length stands for itself. */
    String word();

    /** @return null for null */
    static Intervals of(String word) {
        return switch (word) {
            case null -> null;
            case "hour" -> new Hours();
            case "day" -> new Days();
            case "month" -> new Months();
            default -> new Of(Duration.parse(word));
        };
    }

    /**
     * Stretches of a length that begin with the day.
     *
     * @param length at most a day
     */
    record Of(Duration length) implements Intervals {

        @Override
        public String word() {
            return length.toString();
        }

        @Override
        public Interval of(Instant at, ZoneId zone) {
            LocalDate day = at.atZone(zone).toLocalDate();
            Instant midnight = day.atStartOfDay(zone).toInstant();
            Instant next = day.plusDays(1).atStartOfDay(zone).toInstant();
            long passed = Duration.between(midnight, at).dividedBy(length);
            Instant from = midnight.plus(length.multipliedBy(passed));
            Instant to = from.plus(length);
            return new Interval(from, to.isAfter(next) ? next : to);
        }
    }

    /** Hours by the clock. */
    record Hours() implements Intervals {

        @Override
        public String word() {
            return "hour";
        }

        @Override
        public Interval of(Instant at, ZoneId zone) {
            return new Of(Duration.ofHours(1)).of(at, zone);
        }
    }

    record Days() implements Intervals {

        @Override
        public String word() {
            return "day";
        }

        @Override
        public Interval of(Instant at, ZoneId zone) {
            LocalDate day = at.atZone(zone).toLocalDate();
            return new Interval(
                    day.atStartOfDay(zone).toInstant(),
                    day.plusDays(1).atStartOfDay(zone).toInstant());
        }
    }

    record Months() implements Intervals {

        @Override
        public String word() {
            return "month";
        }

        @Override
        public Interval of(Instant at, ZoneId zone) {
            ZonedDateTime local = at.atZone(zone);
            YearMonth month = YearMonth.from(local);
            return new Interval(
                    month.atDay(1).atStartOfDay(zone).toInstant(),
                    month.plusMonths(1).atDay(1).atStartOfDay(zone).toInstant());
        }
    }
}
