package org.holtra.service.api;

import java.util.Map;
import org.springframework.http.HttpStatus;

/** A request that cannot be served, as problem details (RFC 9457) tell it: what, where, and how to mend it. */
final class Problem extends RuntimeException {

    private final HttpStatus status;
    private final String title;
    private final transient Map<String, Object> more;

    /** @param more further members of the answer */
    Problem(HttpStatus status, String title, String detail, Map<String, Object> more) {
        super(detail);
        this.status = status;
        this.title = title;
        this.more = more;
    }

    static Problem notFound(String what, String name) {
        return new Problem(HttpStatus.NOT_FOUND, "Not found", "There is no " + what + " `" + name + "`.", Map.of());
    }

    /** @param field the parameter or field that is wrong */
    static Problem badRequest(String field, String detail) {
        return new Problem(HttpStatus.BAD_REQUEST, "Not understood", detail, Map.of("field", field));
    }

    /** A text that people give, such as a name or a comment, which must not be longer than this; null is none. */
    static String bounded(String field, String text, int most) {
        if (text != null && text.length() > most) {
            throw badRequest(field, "The " + field + " is longer than " + most + " characters.");
        }
        return text;
    }

    HttpStatus status() {
        return status;
    }

    String title() {
        return title;
    }

    Map<String, Object> more() {
        return more;
    }
}
