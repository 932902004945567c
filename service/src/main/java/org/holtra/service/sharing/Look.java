package org.holtra.service.sharing;

import java.util.List;

/**
 * What a look around a connection found.
 *
 * @param within what was looked at, as an inlet would name it
 * @param seconds how long it was looked
 * @param messages that came meanwhile
 * @param found what they came for
 * @param notShown how many at the uppermost level are left out
 * @param beyond how many messages came for places that are too many to hold
 */
public record Look(String within, double seconds, long messages, List<Sighting> found, int notShown, long beyond) {}
