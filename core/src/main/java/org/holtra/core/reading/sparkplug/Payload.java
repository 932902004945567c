package org.holtra.core.reading.sparkplug;

import java.util.List;
import java.util.Optional;

/**
 * The payload of a message (Sparkplug 3.0, section 6.4).
 *
 * @param timestamp when it was sent, in milliseconds since 1970; null if it does not say
 * @param sequence from 0 to 255; null where there is none, as in NDEATH
 */
public record Payload(Long timestamp, List<Metric> metrics, Long sequence) {

    /** By which the birth and the death of one connection belong together. */
    public static final String BIRTH_DEATH_SEQUENCE = "bdSeq";

    /** The value of {@value #BIRTH_DEATH_SEQUENCE}; empty if there is none. */
    public Optional<Long> birthDeathSequence() {
        return metrics.stream()
                .filter(metric -> BIRTH_DEATH_SEQUENCE.equals(metric.name()) && metric.raw() instanceof Long)
                .map(metric -> (Long) metric.raw())
                .findFirst();
    }
}
