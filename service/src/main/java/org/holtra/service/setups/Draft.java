package org.holtra.service.setups;

import java.time.Instant;

/**
 * A part of the setup that somebody is changing.
 *
 * @param content its fields as JSON
 * @param basedOn the mark of the part it was made from; empty if there was none
 */
public record Draft(String thing, String name, String byWhom, String content, String basedOn, Instant changed) {}
