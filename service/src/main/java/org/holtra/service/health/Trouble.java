package org.holtra.service.health;

import java.time.Instant;

/**
 * Something that is wrong with Holtra itself, or with what it depends on.
 *
 * @param what type it is of: {@code outlet}, {@code backlog}, {@code spool}, {@code disk}, {@code inlet}, {@code dead} or
 *     {@code database}
 * @param name of the outlet, lane, node or inlet
 * @param since when it was noticed
 * @param text in a sentence
 */
public record Trouble(String what, String name, Instant since, String text) {}
