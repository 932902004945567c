package org.holtra.service.tokens;

import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Set;
import org.holtra.service.credentials.Credential;

/**
 * A token as it is presented now. Its text form tells nothing of it.
 *
 * @param expires null if nobody said
 * @param made when it came
 * @param as how it is presented: the form of a credential
 */
record LiveToken(String token, Instant expires, Instant made, String as) {

    static final String AS_BEARER = "bearer";
    static final String AS_HEADER = "header";

    private static final Duration LONGEST_AHEAD = Duration.ofMinutes(5);

    boolean isGood(Instant now) {
        return expires == null || now.isBefore(expires);
    }

    /** Whether it is time to ask for the next one: in the last fifth of its life, and five minutes ahead at most. */
    boolean isDue(Instant now) {
        if (expires == null) {
            return false;
        }
        Duration fifth = Duration.between(made, expires).dividedBy(5);
        Duration ahead = fifth.compareTo(LONGEST_AHEAD) < 0 ? fifth : LONGEST_AHEAD;
        return !now.isBefore(expires.minus(ahead));
    }

    Credential credential() {
        return as.equals(AS_HEADER)
                ? new Credential("header", Map.of("name", "Authorization", "value", token), Set.of("value"))
                : new Credential("bearer", Map.of("token", token), Set.of("token"));
    }

    @Override
    public String toString() {
        return "a token that expires " + expires;
    }
}
