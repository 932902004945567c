package org.holtra.service.workbench;

import java.time.Instant;
import java.util.List;

/**
 * A changed lane run over real messages of the past, held against the active lane. Nothing is sent.
 *
 * @param of how many messages there are to look at
 * @param ended null while it goes on
 * @param memory what its memory would have made; null if it has none
 * @param stopped why it ended before its time; null if it did not
 */
public record Rehearsal(
        String id,
        String lane,
        Order order,
        String by,
        Instant started,
        Instant ended,
        String stopped,
        long of,
        Counts counts,
        Remembering memory,
        List<Example> examples) {

    /**
     * @param last the last so many; null for all of the span
     * @param from and {@code to}: the span; null for the last day and now
     * @param factsThen whether the facts of devices are those of then; else those of today
     */
    public record Order(Long last, Instant from, Instant to, boolean factsThen) {}

    /**
     * @param looked messages looked at
     * @param unreadable of them, today
     * @param took what the active lane took of them, point by point where it goes by points
     * @param takes what the changed lane would take
     * @param gained what only the changed lane takes
     * @param lost what only the active lane took
     * @param changed taken by both, with other content
     * @param same taken by both, with the same content
     * @param failing what the changed lane takes and cannot shape
     */
    public record Counts(
            long looked,
            long unreadable,
            long took,
            long takes,
            long gained,
            long lost,
            long changed,
            long same,
            long failing) {}

    /**
     * @param same whether the active lane remembers in the same way; then contents are held against each other
     * @param made messages made of others
     * @param passed messages that would have gone on as they are, {@code late} of them because they came too late
     * @param open what is in the memory still at the end
     * @param madeThen how many the active lane made in that time; null if it has no memory
     */
    public record Remembering(
            boolean same, long made, long passed, long late, long heldBack, long merged, long open, Long madeThen) {}

    /**
     * @param type {@code gained}, {@code lost}, {@code changed} or {@code failing}
     * @param why a lane does not take it, or its shape cannot be filled; null for what is gained or changed
     */
    public record Example(
            String type,
            String message,
            String device,
            String point,
            String why,
            List<Differences.Difference> differences) {}
}
