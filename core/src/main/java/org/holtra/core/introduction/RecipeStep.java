package org.holtra.core.introduction;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.Answer;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.shape.Shape;

/**
 * One exchange of a recipe, compiled.
 *
 * @param right that it needs there, in the words of people; null if nobody said
 * @param takes what is taken from an answer
 */
public record RecipeStep(StepName name, Shape shape, String right, List<StepRule> rules, Takes takes) {

    /**
     * What is taken from an answer.
     *
     * @param found for a look: whether the device is there; null to go by the id, or by whether the answer is a good one
     * @param id of the device there; null if it brings none
     * @param keep what later expressions see as {@code there}, by name
     * @param secret null if it brings none
     * @param differs for a comparison: by what it is called, whether it is otherwise than we made it
     */
    public record Takes(
            Condition found,
            Expression id,
            Map<String, Expression> keep,
            Expression secret,
            Map<String, Condition> differs) {

        public static final Takes NOTHING = new Takes(null, null, Map.of(), null, Map.of());
    }

    /** What a step came to. */
    public record Result(StepOutcome outcome, Learned learned) {

        /** Of a step that brought nothing. */
        public static Result of(StepOutcome outcome) {
            return new Result(outcome, Learned.NOTHING);
        }
    }

    /**
     * @param usual what the outlet's kind makes of the answer
     * @param answer null if none came
     * @param scope the one the exchange was made with
     */
    public Result judge(StepOutcome usual, Answer answer, Scope scope, Instant notBefore) {
        if (answer == null) {
            return Result.of(usual);
        }
        Scope seen = scope.with(Answer.VARIABLE, answer.seen());
        StepOutcome outcome = rules.stream()
                .filter(rule -> rule.when().holds(seen))
                .findFirst()
                .map(rule -> rule.outcome(answer.code(), notBefore))
                .orElse(usual);
        if (!(outcome instanceof StepOutcome.Done)) {
            return Result.of(outcome);
        }
        return looks() ? looked(seen) : learned(seen);
    }

    private boolean looks() {
        return name == StepName.FIND || name == StepName.TAKEN;
    }

    private Result looked(Scope seen) {
        if (takes.found != null && !takes.found.holds(seen)) {
            return absent("the answer says that it is not there: `" + takes.found.source() + "` does not hold");
        }
        if (takes.found == null && takes.id != null && value(takes.id, seen) == null) {
            return absent("the answer has no `" + takes.id.source() + "`");
        }
        return learned(seen);
    }

    private static Result absent(String reason) {
        return Result.of(new StepOutcome.Absent(reason));
    }

    private Result learned(Scope seen) {
        Object id = takes.id == null ? null : value(takes.id, seen);
        if (takes.id != null && id == null) {
            return missing(takes.id);
        }
        Object secret = takes.secret == null ? null : value(takes.secret, seen);
        if (takes.secret != null && secret == null) {
            return missing(takes.secret);
        }
        Map<String, Object> kept = new LinkedHashMap<>();
        for (Map.Entry<String, Expression> one : takes.keep.entrySet()) {
            Object value = value(one.getValue(), seen);
            if (value == null) {
                return missing(one.getValue());
            }
            kept.put(one.getKey(), value);
        }
        return new Result(
                new StepOutcome.Done(),
                new Learned(id == null ? null : Plain.text(id), kept, secret == null ? null : Plain.text(secret)));
    }

    /** The recipe reads its answer wrongly: told as it is, for a person to mend. */
    private Result missing(Expression expression) {
        return Result.of(new StepOutcome.Refused(
                Why.ANSWER_INCOMPLETE, "the answer to " + name.word() + " has no `" + expression.source() + "`"));
    }

    /** Whether it brings a secret of the device's own. */
    public boolean bringsSecret() {
        return takes.secret != null;
    }

    /** By what the device is otherwise than we made it. */
    public List<String> differences(Answer answer, Scope scope) {
        Scope seen = scope.with(Answer.VARIABLE, answer.seen());
        return takes.differs.entrySet().stream()
                .filter(one -> one.getValue().holds(seen))
                .map(Map.Entry::getKey)
                .toList();
    }

    private static Object value(Expression expression, Scope seen) {
        return expression.evaluate(seen) instanceof Outcome.Value(Object value) && !"".equals(Plain.text(value))
                ? Plain.of(value)
                : null;
    }
}
