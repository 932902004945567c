package org.holtra.service.introductions;

import java.time.Instant;
import java.util.List;

/**
 * Something that was made at an outlet's destination.
 *
 * @param what {@code device}, {@code description} or {@code credential}
 * @param revision of the setup whose recipe made it
 * @param differs by what it is otherwise than we made it; null if it was not compared
 * @param compared when; null if it was not
 */
public record MadeThere(
        long number,
        String outlet,
        String device,
        String what,
        String name,
        String id,
        Instant at,
        String by,
        int revision,
        List<String> differs,
        Instant compared) {

    public static final String DEVICE = "device";
    public static final String DESCRIPTION = "description";
    public static final String CREDENTIAL = "credential";
}
