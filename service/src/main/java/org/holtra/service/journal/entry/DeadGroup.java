package org.holtra.service.journal.entry;

import java.time.Instant;

/** The dead letters of one lane that died of one cause. */
public record DeadGroup(String lane, String outlet, String cause, long count, Instant first, Instant last) {}
