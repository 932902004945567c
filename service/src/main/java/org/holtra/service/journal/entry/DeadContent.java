package org.holtra.service.journal.entry;

import java.time.Instant;
import java.util.UUID;

/** A dead letter with the content it would go with; null if that is made anew by its lane. */
public record DeadContent(
        UUID delivery, UUID message, Instant received, String lane, String outlet, byte[] frozen, String point) {}
