package org.holtra.service.introducing;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.holtra.core.delivery.Answer;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Learned;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.introduction.There;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.Sink;
import org.springframework.stereotype.Component;

/** Looks, right by right and harmlessly, whether an outlet's credential may do what its recipe needs. */
@Component
public class RightsCheck {

    /** There is no such device; a look at it harms nobody. */
    private static final String NOBODY = "holtra-check";

    private final StepExchange exchange;
    private final Dispatcher dispatcher;

    RightsCheck(StepExchange exchange, Dispatcher dispatcher) {
        this.exchange = exchange;
        this.dispatcher = dispatcher;
    }

    /** Nothing if the outlet has no recipe, or its recipe looks at no rights. */
    public List<CheckStep> check(Outlet outlet) {
        Recipe recipe = outlet.recipe();
        return recipe == null || recipe.rights().isEmpty()
                ? List.of()
                : dispatcher.apart(outlet, sink -> check(outlet, recipe, sink));
    }

    private List<CheckStep> check(Outlet outlet, Recipe recipe, Sink sink) {
        CheckSteps steps = new CheckSteps();
        Set<String> granted = new TreeSet<>();
        for (Recipe.RightLook look : recipe.rights()) {
            granted.addAll(check(look, outlet, needed(recipe), sink, steps));
        }
        Set<String> words =
                recipe.rights().stream().map(Recipe.RightLook::right).collect(Collectors.toSet());
        granted.removeAll(words);
        if (!granted.isEmpty()) {
            steps.uncertain(
                    "rights not needed",
                    "the credential may also " + String.join(", ", granted),
                    "Have what Holtra does not need taken away, so that a lost credential does less harm.");
        }
        return steps.all();
    }

    /** What to ask the destination's administrator for, to be pasted. */
    private static String needed(Recipe recipe) {
        return "needed: "
                + recipe.rights().stream()
                        .map(Recipe.RightLook::right)
                        .distinct()
                        .collect(Collectors.joining(", "));
    }

    /** Gives what the credential may do in the destination's words, where it tells. */
    private List<String> check(Recipe.RightLook look, Outlet outlet, String needed, Sink sink, CheckSteps steps) {
        String name = "right to " + look.right();
        Scope scope = new There(NOBODY, null, Map.of())
                .and(Learned.called(NOBODY))
                .in(StepScope.ofNobody(Map.of("key", NOBODY)));
        try {
            StepExchange.Made made = exchange.make(outlet, look.exchange(), scope, outlet.name() + "/" + name, 1, sink);
            told(name, made.result().outcome(), needed, steps);
            return made.asked().answer() == null
                    ? List.of()
                    : granted(look, made.asked().answer(), scope);
        } catch (ShapeFailure e) {
            steps.uncertain(name, "could not be looked at: " + e.getMessage(), "A look at a right sees no device.");
            return List.of();
        }
    }

    private static void told(String name, StepOutcome outcome, String needed, CheckSteps steps) {
        switch (outcome) {
            case StepOutcome.Refused refused
            when refused.why() == Why.RIGHT_MISSING ->
                steps.failed(
                        name, outcome.reason(), "Ask the destination's administrator to grant it; " + needed + ".");
            case StepOutcome.Blocked ignored ->
                steps.failed(name, outcome.reason(), "Enter the credential anew; " + needed + ".");
            case StepOutcome.TryLater ignored -> steps.uncertain(name, outcome.reason(), "Check again later.");
            case StepOutcome.Done ignored -> steps.passed(name, "granted");
            // It got past the look at the right, and found what it was sent wrong, as it should.
            default -> steps.passed(name, "granted; " + outcome.reason());
        }
    }

    private static List<String> granted(Recipe.RightLook look, Answer answer, Scope scope) {
        List<String> granted = new ArrayList<>();
        if (look.granted() != null
                && look.granted().evaluate(scope.with(Answer.VARIABLE, answer.seen()))
                        instanceof Outcome.Value(Object value)
                && Plain.of(value) instanceof List<?> list) {
            list.forEach(one -> granted.add(Plain.text(one)));
        }
        return granted;
    }
}
