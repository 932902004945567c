package org.holtra.service.sharing;

import java.time.Instant;
import java.util.List;

/**
 * Something that a look around found, such as a level of topics.
 *
 * @param name among its neighbours
 * @param path by which an inlet would name it; the name of a value that stands in a payload, which is below no path
 * @param messages how many came for it, or for what is below it, during the look
 * @param places how many places below it, itself included, something came for
 * @param last the beginning of what came last for it itself; null if nothing did
 * @param retained whether that had been kept for whoever comes, and may be old
 * @param notShown how many below it are left out
 */
public record Sighting(
        String name,
        String path,
        long messages,
        int places,
        String last,
        Instant lastAt,
        boolean retained,
        List<Sighting> below,
        int notShown) {}
