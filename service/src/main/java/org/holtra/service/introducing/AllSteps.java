package org.holtra.service.introducing;

import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Learned;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.There;
import org.holtra.core.shape.ShapeFailure;

/**
 * All steps of an introduction, filled before the first changes anything: a device that lacks a fact for the last of them is not
 * left there half made.
 */
final class AllSteps {

    private AllSteps() {}

    /**
     * Of the answers it is taken that they bring what they should.
     *
     * @throws ShapeFailure if something that a step reads of the device is not known
     */
    static void fill(Recipe recipe, There there, Scope scope) throws ShapeFailure {
        Map<String, Object> kept = new LinkedHashMap<>();
        recipe.steps().values().forEach(step -> step.takes().keep().keySet().forEach(name -> kept.put(name, name)));
        Scope imagined = there.and(new Learned(there.id() == null ? there.name() : there.id(), kept, null))
                .in(scope);
        for (StepName name : StepName.INTRODUCING) {
            RecipeStep step = recipe.steps().get(name);
            if (step != null) {
                step.shape().fill(imagined);
            }
        }
    }
}
