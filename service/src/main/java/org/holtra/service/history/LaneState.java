package org.holtra.service.history;

import java.time.Instant;
import java.util.UUID;

/**
 * Where a delivery stands.
 *
 * @param state {@code waiting}, {@code delivered}, {@code dead}, {@code dropped}, {@code remembered}, {@code held back},
 *     {@code merged} or {@code split}
 * @param point of the device; null for the message as a whole
 * @param replay the name of the replay that delivers it again; null if it is no replay
 * @param into the message that a lane made of it and others; null if it goes by itself
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
        String point,
        String replay,
        UUID into) {

    /** The same for another reason. */
    public LaneState because(String other) {
        return new LaneState(message, lane, outlet, state, attempts, at, other, point, replay, into);
    }

    /** The same, where what it is part of is only going to be made. */
    public LaneState notMadeYet() {
        return new LaneState(
                message, lane, outlet, state, attempts, at, reason + ", which is not made yet", point, replay, null);
    }
}
