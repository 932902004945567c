package org.holtra.core.reading;

import java.time.Instant;
import java.time.ZoneId;
import org.holtra.core.setup.Model;

/**
 * What reading needs to know of a device.
 *
 * @param model null if it has none, or there is no device
 * @param zone its own time zone, or null
 * @param installed no message can have been measured before; null if nobody said
 */
public record Known(Model model, ZoneId zone, Instant installed) {

    public static final Known NOTHING = new Known(null, null, null);
}
