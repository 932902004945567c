package org.holtra.service.journal;

import java.time.Instant;
import java.util.UUID;

/**
 * Where a delivery stands.
 *
 * @param state {@code waiting}, {@code delivered}, {@code dead} or {@code dropped}
 * @param point of the device; null for the message as a whole
 * @param at when it came to that; while it waits, when it may be tried next
 */
public record LaneState(
        UUID message,
        String lane,
        String outlet,
        String state,
        int attempts,
        Instant at,
        String reason,
        String point) {}
