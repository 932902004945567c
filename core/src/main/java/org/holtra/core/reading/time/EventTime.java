package org.holtra.core.reading.time;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.temporal.ChronoUnit;
import java.util.Optional;

/** The instant a value stands for. */
public final class EventTime {

    /** Numbers below are seconds since 1970 (this bound is the year 5138), numbers from here on milliseconds. */
    private static final double FIRST_MILLISECONDS = 1e11;

    /** The years 1 to 9999: what RFC 3339 can write and the store can hold. */
    private static final Instant EARLIEST = Instant.parse("0001-01-01T00:00:00Z");

    private static final Instant LATEST = Instant.parse("9999-12-31T23:59:59Z");

    /** Clocks of two machines may differ by so much without being wrong. */
    public static final Duration CLOCKS_DIFFER = Duration.ofMinutes(5);

    private EventTime() {}

    /**
     * RFC 3339 text with an offset, an instant, or a number of seconds or milliseconds since 1970. Cut to microseconds,
     * which is what the store keeps: a message must look the same from memory and from the store.
     */
    public static Optional<Instant> of(Object value) {
        return instant(value)
                .filter(time -> !time.isBefore(EARLIEST) && !time.isAfter(LATEST))
                .map(time -> time.truncatedTo(ChronoUnit.MICROS));
    }

    /** Whether a device's clock is ahead: clocks of two machines may differ by a little without being wrong. */
    public static boolean isAhead(Instant at, Instant received) {
        return at.isAfter(received.plus(CLOCKS_DIFFER));
    }

    /** The time that is gone by: that of arrival where the one that was told has not come yet. */
    public static Instant believed(Instant at, Instant received) {
        return isAhead(at, received) ? received : at;
    }

    static TimeForm.Parsed within(Instant time) {
        return time.isBefore(EARLIEST) || time.isAfter(LATEST) ? TimeForm.Parsed.nothing() : TimeForm.Parsed.of(time);
    }

    private static Optional<Instant> instant(Object value) {
        try {
            return switch (value) {
                case Instant instant -> Optional.of(instant);
                case String text ->
                    Optional.of(
                            OffsetDateTime.parse(text.strip().replace(' ', 'T')).toInstant());
                case Number number -> ofNumber(number.doubleValue());
                case null, default -> Optional.empty();
            };
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static Optional<Instant> ofNumber(double number) {
        if (!Double.isFinite(number) || number <= 0) {
            return Optional.empty();
        }
        double millis = number < FIRST_MILLISECONDS ? number * 1000 : number;
        return Optional.of(Instant.ofEpochMilli((long) millis));
    }
}
