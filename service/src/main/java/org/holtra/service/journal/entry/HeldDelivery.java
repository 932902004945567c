package org.holtra.service.journal.entry;

import java.util.UUID;

/** A delivery that a node has in its hands. */
public record HeldDelivery(UUID id, String outlet) {}
