package org.holtra.service.history;

import java.time.Instant;
import java.util.UUID;

/** A delivery that will not be tried again by itself. */
public record DeadLetter(
        UUID delivery,
        UUID message,
        String lane,
        String outlet,
        String device,
        int attempts,
        Instant died,
        String cause,
        String reason,
        Boolean simulated) {}
