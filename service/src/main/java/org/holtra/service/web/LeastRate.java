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
        return since.compareTo(deadline) > 0
                || since.compareTo(grace) > 0 && bytes < since.toMillis() * bytesPerSecond / 1_000;
    }

    /** What is wanted of a body, as a sentence for its sender. */
    public String wanted() {
        return "It must come within " + deadline.toSeconds() + " s, and after " + grace.toSeconds() + " s at "
                + bytesPerSecond + " bytes a second at least.";
    }
}
