package org.holtra.core.setup.compile;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.Answer;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepRule;
import org.holtra.core.introduction.There;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeCompiler;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.shape.Template;

/** Compiles the recipes by which outlets introduce devices. */
final class RecipeParts {

    private static final String NONE = "none";

    private final Pieces asking;
    private final Pieces reading;
    private final List<ShapeField> beside;

    /** @param beside what an exchange of the outlet's kind has beside the body */
    RecipeParts(Pieces pieces, List<ShapeField> beside) {
        this.asking = pieces.withVariable(There.VARIABLE).withVariable(Recipe.MODEL);
        this.reading = asking.withVariable(Answer.VARIABLE);
        this.beside = beside;
    }

    /** @return null if the outlet has no recipe */
    Recipe recipe(Object block, String pointer) {
        if (!(block instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> fields = SetupDocument.block(block);
        Map<StepName, RecipeStep> steps = new LinkedHashMap<>();
        for (StepName name : StepName.values()) {
            if (fields.get(name.word()) instanceof Map<?, ?> step) {
                steps.put(name, step(name, SetupDocument.block(step), pointer + "/" + name.word()));
            }
        }
        if (StepName.INTRODUCING.stream().noneMatch(steps::containsKey)) {
            asking.wrong(pointer, "a recipe has one of the steps find, create, activate and describe at least");
        }
        Double atOnce = Pieces.number(fields, "atOnce");
        return new Recipe(
                name(fields, pointer),
                steps,
                Boolean.TRUE.equals(fields.get("completes")),
                new Recipe.Manner(
                        atOnce == null ? Recipe.Manner.USUAL_AT_ONCE : atOnce.intValue(),
                        Pieces.number(fields, "perSecond"),
                        Pieces.text(fields, "secretAs")),
                rights(fields.get("rights"), pointer + "/rights"),
                listing(fields.get("list"), pointer + "/list"),
                fields);
    }

    private Template name(Map<String, Object> fields, String pointer) {
        String source = Pieces.text(fields, "name");
        if (source == null) {
            return null;
        }
        try {
            return Template.compile(source, asking.expressions());
        } catch (ExpressionProblem problem) {
            asking.wrong(pointer + "/name", problem);
            return null;
        }
    }

    private RecipeStep step(StepName name, Map<String, Object> fields, String pointer) {
        return new RecipeStep(
                name,
                shape(fields.get("shape"), pointer + "/shape"),
                Pieces.text(fields, "right"),
                rules(fields.get("rules"), pointer + "/rules"),
                new RecipeStep.Takes(
                        reading.condition(fields, "found", pointer),
                        reading.expression(fields, "id", pointer),
                        reading.expressions(fields.get("keep"), pointer + "/keep"),
                        reading.expression(fields, "secret", pointer),
                        reading.conditions(fields.get("differs"), pointer + "/differs")));
    }

    /** Without a body, unless it says one: a recipe sees no message whose data could be sent. */
    private Shape shape(Object said, String pointer) {
        Map<String, Object> block = new LinkedHashMap<>(SetupDocument.block(said));
        if (!block.containsKey("body")) {
            block.putIfAbsent("format", NONE);
        }
        ShapeCompiler compiler = new ShapeCompiler(asking.expressions(), beside);
        Shape shape = compiler.compile(block);
        compiler.misfits().forEach(misfit -> {
            if (misfit.problem() == null) {
                asking.wrong(pointer + misfit.pointer(), misfit.what());
            } else {
                asking.wrong(pointer + misfit.pointer(), misfit.problem());
            }
        });
        compiler.fields().forEach((field, at) -> ofMessage(field).ifPresent(what -> asking.wrong(pointer + at, what)));
        return shape;
    }

    private static Optional<String> ofMessage(FieldPath field) {
        String root = field.names().getFirst();
        return root.equals("data") || root.equals("meta")
                ? Optional.of("`" + field + "` is of a message, and a recipe sees none: it has device, model and there")
                : Optional.empty();
    }

    private List<StepRule> rules(Object list, String pointer) {
        List<StepRule> rules = new ArrayList<>();
        if (list instanceof List<?> all) {
            for (int i = 0; i < all.size(); i++) {
                Map<String, Object> rule = SetupDocument.block(all.get(i));
                Condition when = reading.condition(rule, "when", pointer + "/" + i);
                StepRule.Meaning.of(Pieces.text(rule, "is"))
                        .filter(meaning -> when != null)
                        .ifPresent(meaning -> rules.add(new StepRule(when, meaning, Pieces.text(rule, "because"))));
            }
        }
        return rules;
    }

    private Recipe.Listing listing(Object block, String pointer) {
        if (!(block instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> fields = SetupDocument.block(block);
        Pieces item = reading.withVariable(Recipe.ITEM);
        return new Recipe.Listing(
                step(StepName.COMPARE, fields, pointer),
                reading.expression(fields, "items", pointer),
                item.expression(fields, "key", pointer),
                item.expression(fields, "idThere", pointer),
                item.expressions(fields.get("facts"), pointer + "/facts"),
                reading.expression(fields, "next", pointer));
    }

    private List<Recipe.RightLook> rights(Object list, String pointer) {
        List<Recipe.RightLook> rights = new ArrayList<>();
        if (list instanceof List<?> all) {
            for (int i = 0; i < all.size(); i++) {
                Map<String, Object> look = SetupDocument.block(all.get(i));
                String at = pointer + "/" + i;
                rights.add(new Recipe.RightLook(
                        Pieces.text(look, "right"),
                        step(StepName.COMPARE, look, at),
                        reading.expression(look, "granted", at)));
            }
        }
        return List.copyOf(rights);
    }
}
