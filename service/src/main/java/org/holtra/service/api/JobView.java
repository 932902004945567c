package org.holtra.service.api;

import java.time.Instant;
import java.util.UUID;
import org.holtra.service.jobs.Job;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * A job as it stands.
 *
 * @param name by which traces call it
 * @param expected how many things there were when it began; null if that is not known
 * @param undoUntil until when it can be taken back; null if it cannot
 */
record JobView(
        UUID id,
        String name,
        String what,
        JsonNode terms,
        String by,
        Instant begun,
        Instant ended,
        String state,
        Long expected,
        long done,
        String note,
        Instant undoUntil,
        Instant undone) {

    static JobView of(Job one) {
        return new JobView(
                one.id(),
                "r" + one.number(),
                one.what(),
                JsonMapper.shared().readTree(one.terms()),
                one.byWhom(),
                one.begun(),
                one.ended(),
                one.state(),
                one.expected(),
                one.done(),
                one.note(),
                one.undoUntil(),
                one.undone());
    }
}
