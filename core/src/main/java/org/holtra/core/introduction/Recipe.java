package org.holtra.core.introduction;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Scope;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.core.shape.Template;

/**
 * How devices are made known at an outlet's destination, compiled.
 *
 * @param name what a device is called there; null for its key
 * @param completes whether a device that somebody else made there is activated and described as well
 * @param rights looks whether the credential may do what the steps need
 * @param listing lists the devices that are there; null if it cannot
 * @param said what it was compiled from
 */
public record Recipe(
        Template name,
        Map<StepName, RecipeStep> steps,
        boolean completes,
        Manner manner,
        List<RightLook> rights,
        Listing listing,
        Map<String, Object> said) {

    /** The variable by which expressions see the device's model. */
    public static final String MODEL = "model";

    /** The variable by which the expressions of a listing see one device of the answer. */
    public static final String ITEM = "item";

    /**
     * How the devices that are there are listed.
     *
     * @param items gives the list in an answer
     * @param key of the device here, and {@code id} there, both over {@code item}
     * @param facts over {@code item}, by name; one that is missing is left out
     * @param next what the next page is asked for with, as {@code there.next}; null or missing on the last
     */
    public record Listing(
            RecipeStep exchange,
            Expression items,
            Expression key,
            Expression id,
            Map<String, Expression> facts,
            Expression next) {}

    /**
     * A harmless exchange that shows whether the credential has a right.
     *
     * @param right in the words of people
     * @param exchange that is refused where the right is missing
     * @param granted what the credential may do, as a list in the destination's own words; null if this does not tell
     */
    public record RightLook(String right, RecipeStep exchange, Expression granted) {}

    /**
     * How it goes about it.
     *
     * @param atOnce how many exchanges there may be at once
     * @param perSecond how many there may be a second; null for no limit
     * @param secretAs the form of credential by which a secret that a step brings is presented
     */
    public record Manner(int atOnce, Double perSecond, String secretAs) {

        public static final int USUAL_AT_ONCE = 4;
    }

    public Optional<RecipeStep> step(StepName step) {
        return Optional.ofNullable(steps.get(step));
    }

    /** What a device is to be called there, before anything is known of it there. */
    public There named(Scope scope, String key) throws ShapeFailure {
        return new There(name == null ? key : name.text(scope, "name"), null, Map.of());
    }

    /** The step to begin with: it looks before it creates. Empty if there is nothing to do. */
    public Optional<StepName> first() {
        return StepName.INTRODUCING.stream().filter(steps::containsKey).findFirst();
    }

    /** The step after one that is done; empty if that was the last. */
    public Optional<StepName> after(StepName done) {
        return StepName.INTRODUCING
                .subList(StepName.INTRODUCING.indexOf(done) + 1, StepName.INTRODUCING.size())
                .stream()
                .filter(steps::containsKey)
                .findFirst();
    }

    /** Recipes that say the same are the same, compiled once or twice. */
    @Override
    public boolean equals(Object other) {
        return other instanceof Recipe that && said.equals(that.said);
    }

    @Override
    public int hashCode() {
        return said.hashCode();
    }
}
