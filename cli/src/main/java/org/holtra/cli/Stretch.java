package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import picocli.CommandLine.Option;

/** A stretch of time, as options say it. */
final class Stretch {

    @Option(
            names = "--last",
            paramLabel = "TIME",
            converter = LengthConverter.class,
            description = "Received within this time, such as 30m, 2h or 1d.")
    private Duration last;

    @Option(names = "--from", description = "Received from this instant on (RFC 3339).")
    private Instant from;

    @Option(names = "--until", description = "Received before this instant; by default now.")
    private Instant until;

    /** Null if nothing was said. */
    Instant from() {
        return last == null ? from : Instant.now().minus(last);
    }

    /** Null for now. */
    Instant until() {
        return until;
    }
}
