package org.holtra.service.balance;

import java.time.Instant;

/**
 * What an outlet delivered in the last day, in the last seven and in the last thirty.
 *
 * @param first when the first of these was; the counts reach no further back
 */
public record OutletTraffic(
        String name,
        long dayMessages,
        long dayBytes,
        long weekMessages,
        long weekBytes,
        long monthMessages,
        long monthBytes,
        Instant first) {}
