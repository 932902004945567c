package org.holtra.service.connections;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Map;

/**
 * One step of a look at whether an inlet or outlet would work. Nothing of a message is sent for it.
 *
 * @param step what was looked at, such as {@code name found}
 * @param told what was found, in words
 * @param mend what to do about it; null where there is nothing to do
 * @param offer a setting that would mend it, for a person to agree to; null if there is none
 * @param micros how long it took
 */
public record CheckStep(String step, Result result, String told, String mend, Offer offer, long micros) {

    public CheckStep(String step, Result result, String told, String mend, long micros) {
        this(step, result, told, mend, null, micros);
    }

    /**
     * A change to the settings of the inlet or outlet that a check proposes.
     *
     * @param act what a person would agree to, such as {@code Trust this authority for this outlet}
     * @param shows what to look at before, a line each
     * @param settings of its kind, to be set
     */
    public record Offer(String act, List<String> shows, Map<String, Object> settings) {}

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
