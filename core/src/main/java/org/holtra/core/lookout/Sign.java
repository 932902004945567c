package org.holtra.core.lookout;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.memory.Input;

/** What a lookout goes by. */
public sealed interface Sign permits Level, Move, Stuck, Silence {

    /** A value, and when it was measured. */
    record Sample(Instant at, double value) {}

    /**
     * What is remembered of a key's messages.
     *
     * @param samples that what comes is held against
     * @param heard when the newest message came; null if none has
     * @param pauses between the latest messages, in seconds
     */
    record Seen(List<Sample> samples, Instant heard, List<Long> pauses) {

        static final Seen NOTHING = new Seen(List.of(), null, List.of());

        Seen with(List<Sample> other) {
            return new Seen(other, heard, pauses);
        }
    }

    /** Whether the sign is there. Between its on and its off level it stays as it was. */
    enum Shows {
        ON,
        BETWEEN,
        OFF
    }

    /**
     * What a message shows.
     *
     * @param measure the value that counts: the one that was sent, or how far it moved; null for silence
     * @param words what a person should read of it, without a stop at its end
     */
    record Found(Shows shows, Double measure, String words) {}

    /** What it goes by, to be stored: the same for the same sign, and the other way round. */
    Map<String, Object> form();

    /** What is remembered once a message has come. */
    Seen after(Seen before, Input input);

    /** What it shows then; empty if the message tells nothing of it. */
    Optional<Found> find(Seen seen, Input input);

    /** Which of two measures lies further beyond. */
    default double further(double one, double other) {
        return Math.max(one, other);
    }

    /** When it is there if nothing more comes, by the times of arrival. */
    default Optional<Instant> due(Seen seen) {
        return Optional.empty();
    }

    /** Whether what comes late, by its event time, counts all the same. */
    default boolean takesLate() {
        return false;
    }

    /** A length of time in words. */
    static String words(Duration length) {
        long seconds = length.toSeconds();
        if (seconds % 86_400 == 0 && seconds > 0) {
            return seconds / 86_400 + " d";
        }
        if (seconds % 3_600 == 0 && seconds > 0) {
            return seconds / 3_600 + " h";
        }
        return seconds % 60 == 0 && seconds > 0 ? seconds / 60 + " min" : seconds + " s";
    }
}
