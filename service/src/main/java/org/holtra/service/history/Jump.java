package org.holtra.service.history;

import java.time.Instant;
import java.util.UUID;

/**
 * A place where a device's own numbers for its messages do not follow one another.
 *
 * @param before the number before
 * @param sequence the number after, of the message that came at this time
 */
public record Jump(long sequence, long before, Instant received, UUID id) {}
