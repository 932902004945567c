package org.holtra.core.delivery;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.Optional;

/**
 * How much may go to a destination, all nodes together.
 *
 * @param perSecond messages a second; null for any
 * @param perDay messages a day of UTC; null for any
 * @param perMonth messages a calendar month of UTC; null for any
 */
public record Pace(Double perSecond, Long perDay, Long perMonth) {

    public static final Pace ANY = new Pace(null, null, null);

    /** So much is granted at a time, so that granting costs little and little is lost with a process that dies. */
    private static final Duration GRANTED_AHEAD = Duration.ofMillis(500);

    private static final long MOST_OF_A_QUOTA = 20;

    /**
     * What has been granted so far.
     *
     * @param free when the next message may go, by the pace a second
     * @param day that the messages of the day are counted for
     */
    public record Used(Instant free, LocalDate day, long ofDay, long ofMonth) {

        public static Used nothing(Instant now) {
            return new Used(now, LocalDate.ofInstant(now, ZoneOffset.UTC), 0, 0);
        }

        private Used at(Instant now) {
            LocalDate today = LocalDate.ofInstant(now, ZoneOffset.UTC);
            if (!today.isAfter(day)) {
                return this;
            }
            boolean sameMonth = today.getYear() == day.getYear() && today.getMonth() == day.getMonth();
            return new Used(free, today, 0, sameMonth ? ofMonth : 0);
        }
    }

    /**
     * Permission to send.
     *
     * @param messages how many; 0 if a quota is used up
     * @param first when the first may go, and the others each so much later
     * @param until if there are none: when there will be again
     * @param why if there are none
     * @param used what has been granted then
     */
    public record Grant(long messages, Instant first, Duration each, Instant until, String why, Used used) {}

    public boolean isAny() {
        return perSecond == null && perDay == null && perMonth == null;
    }

    /** The next grant, after what has been used. */
    public Grant grant(Used before, Instant now) {
        Used used = before.at(now);
        Optional<Grant> none = exhausted(used, now);
        if (none.isPresent()) {
            return none.get();
        }
        long messages = perSecond == null
                ? MOST_OF_A_QUOTA
                : Math.max(1, Math.round(perSecond * GRANTED_AHEAD.toMillis() / 1e3));
        messages = Math.min(messages, left(perDay, used.ofDay));
        messages = Math.min(messages, left(perMonth, used.ofMonth));
        Duration each = perSecond == null ? Duration.ZERO : Duration.ofNanos((long) (1e9 / perSecond));
        Instant first = used.free.isAfter(now) ? used.free : now;
        Used after = new Used(
                first.plus(each.multipliedBy(messages)), used.day, used.ofDay + messages, used.ofMonth + messages);
        return new Grant(messages, first, each, null, null, after);
    }

    private static long left(Long quota, long used) {
        return quota == null ? Long.MAX_VALUE : quota - used;
    }

    private Optional<Grant> exhausted(Used used, Instant now) {
        if (left(perMonth, used.ofMonth) <= 0) {
            LocalDate next = used.day.withDayOfMonth(1).plusMonths(1);
            return Optional.of(none("the month's quota of " + perMonth + " messages is used up", next, now, used));
        }
        if (left(perDay, used.ofDay) <= 0) {
            return Optional.of(
                    none("the day's quota of " + perDay + " messages is used up", used.day.plusDays(1), now, used));
        }
        return Optional.empty();
    }

    private static Grant none(String why, LocalDate until, Instant now, Used used) {
        return new Grant(
                0, now, Duration.ZERO, until.atStartOfDay(ZoneOffset.UTC).toInstant(), why, used);
    }
}
