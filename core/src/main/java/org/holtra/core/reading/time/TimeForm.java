package org.holtra.core.reading.time;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoField;
import java.time.temporal.ChronoUnit;
import java.time.temporal.TemporalAccessor;
import java.time.temporal.TemporalQueries;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** How senders write a time. Whatever the form, the result is cut to microseconds, which is what the store keeps. */
public sealed interface TimeForm {

    /**
     * @param instant empty if the value is no time of this form
     * @param note what a person should know about how a local time was taken, or null
     */
    record Parsed(Optional<Instant> instant, String note) {

        static Parsed of(Instant instant) {
            return new Parsed(Optional.of(instant.truncatedTo(ChronoUnit.MICROS)), null);
        }

        static Parsed nothing() {
            return new Parsed(Optional.empty(), null);
        }
    }

    /** @param zone for local times */
    Parsed tell(Object value, ZoneId zone);

    /** @throws IllegalArgumentException if the word is none of the forms, nor a pattern */
    static TimeForm of(String word) {
        return switch (word) {
            case "rfc3339" -> new Plain();
            case "seconds" -> new Epoch(1e3);
            case "millis" -> new Epoch(1);
            case "nanos" -> new Epoch(1e-6);
            default -> new Pattern(word, DateTimeFormatter.ofPattern(word, Locale.ROOT));
        };
    }

    /** RFC 3339 text, an instant, or a number of seconds or milliseconds since 1970, told apart by size. */
    record Plain() implements TimeForm {
        @Override
        public Parsed tell(Object value, ZoneId zone) {
            return EventTime.of(value).map(Parsed::of).orElseGet(Parsed::nothing);
        }
    }

    /** A number since 1970, in units of so many milliseconds. */
    record Epoch(double millis) implements TimeForm {
        @Override
        public Parsed tell(Object value, ZoneId zone) {
            Object number = value;
            if (value instanceof String text) {
                try {
                    number = text.matches("-?\\d{1,18}") ? (Object) Long.parseLong(text) : Double.parseDouble(text);
                } catch (NumberFormatException e) {
                    return Parsed.nothing();
                }
            }
            return switch (number) {
                // A double does not hold nanoseconds since 1970 exactly; as whole numbers they come as a long.
                case Long whole when millis < 1 -> EventTime.within(Instant.EPOCH.plusNanos(whole));
                case Number other
                when Double.isFinite(other.doubleValue()) -> {
                    double micros = other.doubleValue() * millis * 1e3;
                    yield Math.abs(micros) > 1e18
                            ? Parsed.nothing()
                            : EventTime.within(Instant.EPOCH.plus(Math.round(micros), ChronoUnit.MICROS));
                }
                default -> Parsed.nothing();
            };
        }
    }

    /** A pattern of {@link DateTimeFormatter}; where it holds no offset, the time is local. */
    record Pattern(String source, DateTimeFormatter formatter) implements TimeForm {
        @Override
        public Parsed tell(Object value, ZoneId zone) {
            String text = org.holtra.core.expression.Plain.text(value).strip();
            try {
                TemporalAccessor parsed = formatter.parse(text);
                if (parsed.isSupported(ChronoField.INSTANT_SECONDS)) {
                    return EventTime.within(Instant.from(parsed));
                }
                if (parsed.query(TemporalQueries.zone()) != null) {
                    return EventTime.within(OffsetDateTime.from(parsed).toInstant());
                }
                LocalDate date = LocalDate.from(parsed);
                var time = parsed.query(TemporalQueries.localTime());
                return local(time == null ? date.atStartOfDay() : date.atTime(time), zone);
            } catch (DateTimeException e) {
                return Parsed.nothing();
            }
        }

        private static Parsed local(LocalDateTime local, ZoneId zone) {
            List<ZoneOffset> offsets = zone.getRules().getValidOffsets(local);
            ZonedDateTime taken = ZonedDateTime.of(local, zone);
            Parsed told = EventTime.within(taken.toInstant());
            if (offsets.size() == 1 || told.instant.isEmpty()) {
                return told;
            }
            String note = offsets.isEmpty()
                    ? local + " does not exist in " + zone + ", where clocks went forward over it; "
                            + taken.toLocalTime() + " was taken"
                    : local + " comes twice in " + zone + ", where clocks went back over it; the first was taken";
            return new Parsed(told.instant, note);
        }
    }
}
