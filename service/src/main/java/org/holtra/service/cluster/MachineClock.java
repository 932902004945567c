package org.holtra.service.cluster;

import java.time.Instant;

/** The clock of the machine. It is read once, when the service starts, and may be wrong, or set meanwhile. */
@FunctionalInterface
public interface MachineClock {

    Instant now();
}
