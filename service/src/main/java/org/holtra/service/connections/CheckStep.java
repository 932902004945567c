package org.holtra.service.connections;

import com.fasterxml.jackson.annotation.JsonValue;

/**
 * One step of a look at whether an inlet or outlet would work. Nothing of a message is sent for it.
 *
 * @param step what was looked at, such as {@code name found}
 * @param told what was found, in words
 * @param mend what to do about it; null where there is nothing to do
 * @param micros how long it took
 */
public record CheckStep(String step, Result result, String told, String mend, long micros) {

    /** What a step came to. */
    public enum Result {
        PASSED("passed"),
        FAILED("failed"),
        /** Nothing is wrong as far as could be seen. */
        UNCERTAIN("uncertain");

        private final String word;

        Result(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }
}
