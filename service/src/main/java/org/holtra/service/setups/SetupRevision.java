package org.holtra.service.setups;

import java.time.Instant;

/** A setup as it was adopted: what, when, by whom. */
public record SetupRevision(int revision, Instant adopted, String adoptedBy, String note, String yaml) {}
