package org.holtra.service.tokens;

import java.time.Duration;

/**
 * What an authorization server answered (RFC 6749, section 5.1).
 *
 * @param lives null if it did not say
 * @param refresh asks for the next one; null if there is none
 * @param scope that was granted; null if it is the one asked for
 */
record TokenAnswer(String token, Duration lives, String refresh, String scope) {

    /** Tells nothing of the tokens. */
    @Override
    public String toString() {
        return "a token that lives " + lives;
    }
}
