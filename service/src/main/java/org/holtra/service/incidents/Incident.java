package org.holtra.service.incidents;

import java.time.Instant;
import java.util.UUID;

/**
 * A span of time on the history of an outlet or of a device.
 *
 * @param outlet and {@code device}: one of both is null
 * @param since by the time of arrival of messages, up to but without {@code until}
 * @param findings as JSON, see {@link Findings}
 * @param look the job that looks into it, or did last
 * @param acts as JSON, see {@link Acts}; null as long as nothing is done
 * @param before as JSON, what was found before that
 * @param acted as JSON, what was done: {@link Findings} too
 * @param mend the job that mends it; null as long as there is none
 */
public record Incident(
        UUID id,
        long number,
        String title,
        String outlet,
        String device,
        Instant since,
        Instant until,
        String byWhom,
        Instant marked,
        String findings,
        UUID look,
        String acts,
        String before,
        String acted,
        UUID mend) {

    /** What it is about, in words. */
    public String about() {
        return outlet == null ? "device " + device : "outlet " + outlet;
    }
}
