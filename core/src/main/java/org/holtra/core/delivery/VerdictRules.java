package org.holtra.core.delivery;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.Condition;

/** An outlet's own rules for what answers mean, in their order; where none applies the usual ones of its kind do. */
public final class VerdictRules {

    public static final VerdictRules NONE = new VerdictRules(List.of());

    /** What a rule may say. */
    public enum Meaning {
        DELIVERED("delivered"),
        TRY_LATER("try-later"),
        REFUSED("refused"),
        DEVICE_HELD("device-held"),
        DEVICE_UNKNOWN("device-unknown"),
        OUTLET_BLOCKED("outlet-blocked");

        private final String word;

        Meaning(String word) {
            this.word = word;
        }

        public static Optional<Meaning> of(String word) {
            return List.of(values()).stream()
                    .filter(meaning -> meaning.word.equals(word))
                    .findFirst();
        }
    }

    /**
     * @param after for {@link Meaning#TRY_LATER}: how long the outlet pauses; null for the delivery's own schedule
     * @param because the reason told to people; null to tell the condition
     */
    public record Rule(Condition when, Meaning meaning, Duration after, String because) {

        private List<Object> said() {
            return List.of(when.source(), meaning, String.valueOf(after), String.valueOf(because));
        }

        private Verdict verdict(Answer answer, Instant now) {
            String reason = "the destination answered " + answer.code() + ": "
                    + (because == null ? "`" + when.source() + "` holds" : because);
            return switch (meaning) {
                case DELIVERED -> new Verdict.Delivered();
                case TRY_LATER -> new Verdict.TryLater(reason, after == null ? null : now.plus(after), false, false);
                case REFUSED -> new Verdict.Refused(reason);
                case DEVICE_HELD -> new Verdict.DeviceHeld(reason);
                case DEVICE_UNKNOWN -> new Verdict.DeviceUnknown(reason);
                case OUTLET_BLOCKED -> new Verdict.OutletBlocked(reason);
            };
        }
    }

    private final List<Rule> rules;

    public VerdictRules(List<Rule> rules) {
        this.rules = List.copyOf(rules);
    }

    public boolean isEmpty() {
        return rules.isEmpty();
    }

    /** What the first rule that applies says; empty if none does. */
    public Optional<Verdict> judge(Answer answer, Instant now) {
        return rules.stream()
                .filter(rule -> rule.when.holds(answer.scope()))
                .findFirst()
                .map(rule -> rule.verdict(answer, now));
    }

    /** Rules that say the same are the same, compiled once or twice. */
    @Override
    public boolean equals(Object other) {
        return other instanceof VerdictRules that
                && rules.stream()
                        .map(Rule::said)
                        .toList()
                        .equals(that.rules.stream().map(Rule::said).toList());
    }

    @Override
    public int hashCode() {
        return rules.stream().map(Rule::said).toList().hashCode();
    }
}
