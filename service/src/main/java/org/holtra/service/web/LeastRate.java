package org.holtra.service.web;

import java.time.Duration;

/**
 * How fast a body has to come: within a grace it may come as it likes, from then on so many bytes for each second since it
 * began, and it has to be there within a time.
 *
 * @param bytesPerSecond on the average since the beginning
 */
public record LeastRate(Duration grace, int bytesPerSecond, Duration deadline) {

    /** A thin radio link passes this; a sender that holds a connection with a byte now and then does not. */
    public static final LeastRate USUAL = new LeastRate(Duration.ofSeconds(10), 100, Duration.ofSeconds(60));

    /** Whether a body of which so many bytes have come in this time is too slow. */
    public boolean isMissed(long bytes, Duration since) {
        return since.compareTo(allowed(bytes)) > 0;
    }

    /** How long after its beginning a body is too slow, if no more than so many bytes of it have come. */
    public Duration allowed(long bytes) {
        Duration atThisRate = Duration.ofMillis(bytes * 1_000 / bytesPerSecond);
        Duration unbounded = atThisRate.compareTo(grace) > 0 ? atThisRate : grace;
        return unbounded.compareTo(deadline) > 0 ? deadline : unbounded;
    }

    /** What is wanted of a body, as a sentence for its sender. */
    public String wanted() {
        return "It must come within " + deadline.toSeconds() + " s, and after " + grace.toSeconds() + " s at "
                + bytesPerSecond + " bytes a second at least.";
    }
}
