package org.holtra.service.kinds.http;

import java.util.Locale;

/** What a sender did wrong, by name. */
enum Slip {
    NO_HEADER,
    NO_SECRET,
    NO_SCHEME,
    SCHEME_TWICE,
    OTHER_SCHEME,
    OTHER_HEADER,
    OTHER_USER,
    SECRET_OF_ANOTHER_INLET,
    OLD_SECRET,
    QUOTED_SECRET,
    WRONG_SECRET,
    SIGNATURE,
    CERTIFICATE,
    WRONG_PATH,
    METHOD,
    CONTENT_TYPE,
    TOO_LARGE,
    TOO_SLOW,
    TOO_MANY,
    CLOSED,
    NOT_TLS;

    /** For people and programs, such as {@code no-header}. */
    String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** @param text a sentence with what to do */
    record Told(Slip slip, String text) {}

    Told told(String text) {
        return new Told(this, text);
    }
}
