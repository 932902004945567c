package org.holtra.core.introduction;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.Scope;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.core.shape.Template;
import org.junit.jupiter.api.Test;

class RecipeTest {

    private static Recipe recipe(Template name, StepName... steps) {
        return new Recipe(
                name,
                Stream.of(steps)
                        .collect(Collectors.toMap(
                                step -> step,
                                step -> new RecipeStep(
                                        step, Shape.asRead(), null, List.of(), RecipeStep.Takes.NOTHING))),
                false,
                new Recipe.Manner(4, null, null),
                List.of(),
                null,
                Map.of("name", String.valueOf(name), "steps", List.of(steps)));
    }

    @Test
    void itLooksBeforeItCreatesAndSkipsStepsThatItHasNot() {
        Recipe recipe = recipe(null, StepName.DESCRIBE, StepName.CREATE, StepName.FIND, StepName.REMOVE);

        assertThat(recipe.first()).contains(StepName.FIND);
        assertThat(recipe.after(StepName.FIND)).contains(StepName.CREATE);
        assertThat(recipe.after(StepName.CREATE)).contains(StepName.DESCRIBE);
        assertThat(recipe.after(StepName.DESCRIBE)).isEmpty();
    }

    @Test
    void aDeviceIsCalledByTheTemplateOrByItsKey() throws ExpressionProblem, ShapeFailure {
        Scope scope = new Scope(Map.of(), Map.of(), Map.of("key", "cs-01"));
        Template prefixed = Template.compile("larkmoor-${device.key}", new ExpressionCompiler());

        assertThat(recipe(prefixed).named(scope, "cs-01").name()).isEqualTo("larkmoor-cs-01");
        assertThat(recipe(null).named(scope, "cs-01").name()).isEqualTo("cs-01");
    }

    @Test
    void recipesThatSayTheSameAreTheSame() {
        assertThat(recipe(null, StepName.FIND))
                .isEqualTo(recipe(null, StepName.FIND))
                .hasSameHashCodeAs(recipe(null, StepName.FIND));
        assertThat(recipe(null, StepName.FIND)).isNotEqualTo(recipe(null, StepName.CREATE));
    }
}
