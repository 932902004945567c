package org.holtra.core.introduction;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.Condition;
import org.holtra.core.introduction.StepOutcome.Why;

/**
 * What an answer to a step means where it means something else than usual.
 *
 * @param because the reason told to people; null to tell the condition
 */
public record StepRule(Condition when, Meaning meaning, String because) {

    /** What a rule may say. */
    public enum Meaning {
        DONE("done"),
        ABSENT("absent"),
        TRY_LATER("try-later"),
        RIGHT_MISSING("right-missing"),
        QUOTA("quota"),
        NAME_TAKEN("name-taken"),
        DISABLED("disabled"),
        REFUSED("refused"),
        OUTLET_BLOCKED("outlet-blocked");

        private final String word;

        Meaning(String word) {
            this.word = word;
        }

        public static Optional<Meaning> of(String word) {
            return List.of(values()).stream()
                    .filter(one -> one.word.equals(word))
                    .findFirst();
        }
    }

    /** @param code that was answered, in its protocol's own words */
    StepOutcome outcome(String code, Instant notBefore) {
        String reason = "the destination answered " + code + ": "
                + (because == null ? "`" + when.source() + "` holds" : because);
        return switch (meaning) {
            case DONE -> new StepOutcome.Done();
            case ABSENT -> new StepOutcome.Absent(reason);
            case TRY_LATER -> new StepOutcome.TryLater(reason, notBefore, false);
            case RIGHT_MISSING -> new StepOutcome.Refused(Why.RIGHT_MISSING, reason);
            case QUOTA -> new StepOutcome.Refused(Why.QUOTA, reason);
            case NAME_TAKEN -> new StepOutcome.Refused(Why.NAME_TAKEN, reason);
            case DISABLED -> new StepOutcome.Refused(Why.DISABLED, reason);
            case REFUSED -> new StepOutcome.Refused(Why.OTHER, reason);
            case OUTLET_BLOCKED -> new StepOutcome.Blocked(reason);
        };
    }
}
