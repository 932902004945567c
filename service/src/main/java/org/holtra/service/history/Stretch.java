package org.holtra.service.history;

import java.time.Instant;

/**
 * Some messages in a row.
 *
 * @param first when the first of them came; null if there are none
 */
public record Stretch(long count, Instant first) {}
