package org.holtra.service.introducing;

import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ThreadLocalRandom;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.CredentialForms;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.introductions.Introductions;
import org.springframework.stereotype.Component;

/** Makes the next step of one device's introduction, or removal, and writes down where it stands then. */
@Component
class IntroductionRun {

    private static final String USUAL_SECRET = "bearer";

    private final Introductions introductions;
    private final StepScope scopes;
    private final StepExchange exchange;
    private final CredentialForms forms;
    private final InstantSource clock;

    IntroductionRun(
            Introductions introductions,
            StepScope scopes,
            StepExchange exchange,
            CredentialForms forms,
            InstantSource clock) {
        this.introductions = introductions;
        this.scopes = scopes;
        this.exchange = exchange;
        this.forms = forms;
        this.clock = clock;
    }

    /**
     * What a step came to.
     *
     * @param made what went over the line; null if nothing was sent
     * @param outcome null if there was nothing to ask
     * @param now how the device stands; null if nothing of it is there any longer
     */
    record Stepped(StepName step, StepExchange.Made made, StepOutcome outcome, Introduction now) {}

    /** The step that comes next: after a break it looks before it creates. */
    static Optional<StepName> next(Introduction one, Recipe recipe) {
        StepName step = one.progress().step();
        if (one.state() == IntroductionState.REMOVING) {
            return Optional.of(StepName.REMOVE);
        }
        boolean begins = step == null || step == StepName.FIND || step == StepName.CREATE && isResumed(one);
        return begins ? recipe.first() : Optional.of(step);
    }

    /** Whether it stopped somewhere, and not just came to this step by the one before. */
    private static boolean isResumed(Introduction one) {
        return one.progress().creating() || one.state() != IntroductionState.INTRODUCING;
    }

    /** Empty if somebody else moved it meanwhile. */
    Optional<Stepped> step(Introduction one, Outlet outlet, Setup setup, Sink sink) {
        Recipe recipe = outlet.recipe();
        NextStep course = new NextStep(recipe, clock.instant(), ThreadLocalRandom.current());
        Scope scope = scopes.of(one.device(), setup);
        Introduction begun;
        StepName name;
        try {
            begun = begun(one, recipe, scope, setup);
            name = next(one, recipe).orElse(null);
        } catch (ShapeFailure e) {
            return written(course.after(named(one), StepName.FIND, lacks(e)), StepName.FIND, null, lacks(e).outcome());
        }
        RecipeStep step = name == null ? null : recipe.steps().get(name);
        if (step == null) {
            return written(course.without(begun, name), name, null, null);
        }
        if (name == StepName.CREATE) {
            try {
                AllSteps.fill(recipe, begun.there(), scope);
            } catch (ShapeFailure e) {
                return written(course.after(begun, name, lacks(e)), name, null, lacks(e).outcome());
            }
            begun = begun.with(begun.progress()
                    .to(name, begun.progress().next(), begun.progress().attempts())
                    .creating(true));
            if (!introductions.write(begun, List.of())) {
                return Optional.empty();
            }
        }
        try {
            String key = String.join(
                    "/", outlet.name(), one.device(), "" + one.progress().version(), name.word());
            StepExchange.Made made = exchange.make(
                    outlet, step, begun.there().in(scope), key, begun.progress().attempts() + 1, sink);
            NextStep.Moved moved = course.after(begun, name, made.result());
            return written(own(moved, made, recipe), name, made, made.result().outcome());
        } catch (ShapeFailure e) {
            return written(course.after(begun, name, lacks(e)), name, null, lacks(e).outcome());
        }
    }

    /** With the name that it is to have there, unless it has one there already. */
    private static Introduction begun(Introduction one, Recipe recipe, Scope scope, Setup setup) throws ShapeFailure {
        Introduction named =
                one.there() != null && one.there().id() != null ? one : one.with(recipe.named(scope, one.device()));
        Introduction by = named.with(named.progress().by(setup.revision()));
        if (by.state() == IntroductionState.REMOVING || by.state() == IntroductionState.INTRODUCING) {
            return by;
        }
        return by.with(by.isRemoval() ? IntroductionState.REMOVING : IntroductionState.INTRODUCING, null);
    }

    private static Introduction named(Introduction one) {
        return one.there() != null
                ? one
                : one.with(new org.holtra.core.introduction.There(one.device(), null, Map.of()));
    }

    private static RecipeStep.Result lacks(ShapeFailure failure) {
        return RecipeStep.Result.of(new StepOutcome.Refused(StepOutcome.Why.LACKS_FACT, failure.getMessage()));
    }

    private NextStep.Moved own(NextStep.Moved moved, StepExchange.Made made, Recipe recipe) {
        String secret = made.result().learned().secret();
        return secret == null
                ? moved
                : moved.with(credential(secret, recipe.manner().secretAs()));
    }

    private Credential credential(String secret, String as) {
        CredentialForm form = forms.find(as == null ? USUAL_SECRET : as)
                .orElseThrow(() -> new IllegalStateException("there is no form of credential called " + as));
        String field = form.fields().stream()
                .filter(CredentialForm.Field::secret)
                .map(CredentialForm.Field::name)
                .findFirst()
                .orElseThrow();
        return form.credential(Map.of(field, secret));
    }

    private Optional<Stepped> written(
            NextStep.Moved moved, StepName step, StepExchange.Made made, StepOutcome outcome) {
        Introduction to = moved.to();
        if (moved.isRemoved()) {
            introductions.removed(to.outlet(), List.of(to.device()), to.asked().by());
            return Optional.of(new Stepped(step, made, outcome, null));
        }
        boolean kept = !moved.mustBeKept(made) || introductions.write(to, moved.made());
        return kept ? Optional.of(new Stepped(step, made, outcome, to)) : Optional.empty();
    }
}
