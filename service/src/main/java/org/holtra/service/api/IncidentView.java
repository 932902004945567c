package org.holtra.service.api;

import java.time.Instant;
import java.util.List;
import org.holtra.service.incidents.Acts;
import org.holtra.service.incidents.Findings;

/**
 * An incident as it stands.
 *
 * @param state {@code looking}, {@code marked}, {@code mending} or {@code mended}
 * @param progress of the look or the mending that runs or ran last
 * @param findings of the last look, as far as it has come
 * @param revisions of the setup that made what was delivered
 * @param proposals what can be done
 * @param before what was found before it was mended; null if it was not
 * @param acted what was done; null if nothing was
 */
record IncidentView(
        long number,
        String title,
        String outlet,
        String device,
        Instant since,
        Instant until,
        String by,
        Instant marked,
        String state,
        JobView progress,
        Findings findings,
        List<Revision> revisions,
        List<Proposal> proposals,
        Acts acts,
        Findings before,
        Findings acted) {

    /**
     * @param active whether it is the active one, so that correcting would make the same
     * @param deliveries how many arrived that it made
     */
    record Revision(int revision, Instant adopted, String by, String note, boolean active, long deliveries) {}

    /**
     * Something that can be done.
     *
     * @param act {@code read}, {@code retry}, {@code take} or {@code wrong}
     * @param count of messages or deliveries it would be done to
     * @param what it would do, in a sentence
     * @param order what it does to the order of a device's messages
     * @param doubles whether a destination can get something twice
     */
    record Proposal(String act, long count, String what, String order, String doubles) {}
}
