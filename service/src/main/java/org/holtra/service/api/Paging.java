package org.holtra.service.api;

import java.time.DateTimeException;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.function.Function;

/**
 * The one way in which lists that grow come in pages: {@code limit} says how many, the answer's {@code next} is what the
 * next request gives as {@code after}, and it is null on the last page. Lists that are as long as the setup come whole.
 */
final class Paging {

    /** The most that one answer brings. */
    static final int MOST = 500;

    private static final String SEPARATOR = "~";

    private Paging() {}

    /** @throws Problem if an answer can not bring so many */
    static int checked(int limit) {
        if (limit < 1 || limit > MOST) {
            throw Problem.badRequest("limit", "The limit is a number from 1 to " + MOST + ".");
        }
        return limit;
    }

    /** What to go on after; null if fewer than the limit were found, since then these are the last. */
    static <T> String next(List<T> found, int limit, Function<T, String> after) {
        return found.size() < limit ? null : after.apply(found.getLast());
    }

    /** Where something stands in a list that is ordered by a time and, within it, by an id. */
    record After(Instant at, UUID id) {

        static final After START = new After(null, null);

        /** @throws Problem if the text is none that {@link #toString} made */
        static After of(String text) {
            if (text == null) {
                return START;
            }
            try {
                int end = text.indexOf(SEPARATOR);
                return new After(Instant.parse(text.substring(0, end)), UUID.fromString(text.substring(end + 1)));
            } catch (DateTimeException | IllegalArgumentException | IndexOutOfBoundsException e) {
                throw malformed(text);
            }
        }

        @Override
        public String toString() {
            return at + SEPARATOR + id;
        }
    }

    /** @throws Problem if the text is no number; null if there is none */
    static Long number(String text) {
        if (text == null) {
            return null;
        }
        try {
            return Long.valueOf(text);
        } catch (NumberFormatException e) {
            throw malformed(text);
        }
    }

    static Problem malformed(String after) {
        return Problem.badRequest(
                "after", "`" + after + "` is not the `next` of an earlier answer; leave it out for the first page.");
    }
}
