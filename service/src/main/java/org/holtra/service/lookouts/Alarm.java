package org.holtra.service.lookouts;

import com.fasterxml.jackson.annotation.JsonProperty;
import java.time.Instant;
import java.util.UUID;

/**
 * An alarm, from when it is raised.
 *
 * @param id of the message that tells of it
 * @param number that people call it by
 * @param key what is watched as one, usually a device
 * @param since when its sign came
 * @param cause the message that showed it first; null for silence
 * @param text what shows it, in words
 * @param told whether its message went out
 * @param shelvedUntil until when nobody wants to hear of it; null if it is not shelved
 */
public record Alarm(
        UUID id,
        Long number,
        String lookout,
        String key,
        String device,
        String point,
        boolean simulated,
        Instant since,
        Instant raised,
        Instant cleared,
        UUID cause,
        String text,
        Double value,
        Double extreme,
        Instant extremeAt,
        boolean told,
        Instant acknowledged,
        String acknowledgedBy,
        Instant shelvedUntil) {

    /** {@code open}, {@code acknowledged}, {@code shelved} or {@code cleared}. */
    @JsonProperty
    public String state() {
        return cleared != null
                ? "cleared"
                : shelvedUntil != null ? "shelved" : acknowledged != null ? "acknowledged" : "open";
    }

    /** What a person did about one. */
    public record Act(Instant at, String by, String act, String text, Instant until) {}
}
