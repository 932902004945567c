package org.holtra.core.introduction;

import java.time.Instant;
import java.util.List;
import java.util.Optional;

/** What a destination's answer means for a step of a recipe. Each but the first says why in a sentence. */
public sealed interface StepOutcome {

    /** Why, in words; null where there is nothing to explain. */
    String reason();

    record Done() implements StepOutcome {
        @Override
        public String reason() {
            return null;
        }
    }

    /** The destination has no such device. */
    record Absent(String reason) implements StepOutcome {}

    /**
     * @param notBefore when the destination said to come back, or null
     * @param unknown whether the request was sent and no answer came, so that it may have taken effect
     */
    record TryLater(String reason, Instant notBefore, boolean unknown) implements StepOutcome {}

    record Refused(Why why, String reason) implements StepOutcome {}

    /** The credential is refused, whatever the device. */
    record Blocked(String reason) implements StepOutcome {}

    /** Why a destination refuses a step. */
    enum Why {
        RIGHT_MISSING("right missing"),
        QUOTA("quota"),
        NAME_TAKEN("name taken"),
        DISABLED("disabled there"),
        /** Something that the recipe reads of the device is not known. */
        LACKS_FACT("lacks a fact"),
        /** The step took effect, and its answer has not what the recipe takes of it. */
        ANSWER_INCOMPLETE("answer incomplete"),
        /** It was introduced anew, and the destination still does not know it. */
        GONE("gone there"),
        OTHER("refused");

        private final String word;

        Why(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        /** Whether it is the same for every device of the outlet. */
        public boolean isGeneral() {
            return this == RIGHT_MISSING || this == QUOTA;
        }

        public static Optional<Why> of(String word) {
            return List.of(values()).stream()
                    .filter(one -> one.word.equals(word))
                    .findFirst();
        }
    }
}
