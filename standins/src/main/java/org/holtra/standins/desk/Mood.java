package org.holtra.standins.desk;

import java.time.Instant;
import java.util.Arrays;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * How the desk behaves, and until when.
 *
 * @param detail of a 403: the device it concerns, or null for all
 */
public record Mood(Kind kind, Instant until, String detail) {

    public enum Kind {
        WELL("well"),
        SLOW("slow"),
        FAILING("500"),
        BUSY("429"),
        LOCKED("401"),
        FORBIDDING("403"),
        REFUSING("422"),
        DROPPING("drop");

        private final String word;

        Kind(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        public static Optional<Kind> of(String word) {
            return Arrays.stream(values())
                    .filter(kind -> kind.word.equals(word))
                    .findFirst();
        }

        public static String words() {
            return Arrays.stream(values()).map(Kind::word).collect(Collectors.joining(", "));
        }
    }

    static Mood well() {
        return new Mood(Kind.WELL, Instant.MAX, null);
    }

    Mood at(Instant now) {
        return now.isBefore(until) ? this : well();
    }
}
