package org.holtra.service.introducing;

import java.time.Duration;
import java.util.List;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Work;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Compares what was made at a destination with what is there now. */
@Component
class Drift implements Work {

    private static final String DELETED = "deleted there";
    private static final int STEP = 20;
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Introductions introductions;
    private final StepScope scopes;
    private final StepExchange exchange;
    private final DryRun.Ways ways;

    Drift(Introductions introductions, StepScope scopes, StepExchange exchange, DryRun.Ways ways) {
        this.introductions = introductions;
        this.scopes = scopes;
        this.exchange = exchange;
        this.ways = ways;
    }

    @Override
    public String what() {
        return IntroductionWork.COMPARE;
    }

    /** The reached text is how many were looked at, and how many of them differed. */
    @Override
    public Step step(Job job) {
        IntroductionTerms terms = JSON.readValue(job.terms(), IntroductionTerms.class);
        String[] reached =
                job.reached() == null ? new String[] {"0", "0"} : job.reached().split(" ");
        int from = Integer.parseInt(reached[0]);
        int differ = Integer.parseInt(reached[1]);
        int to = Math.min(from + STEP, terms.keys().size());
        Setup setup = ways.setups().current();
        Outlet outlet = setup.outlets().get(terms.outlet());
        if (outlet == null || outlet.recipe() == null) {
            return new Step(0, null, Duration.ZERO, List.of(), "the outlet has no recipe any longer");
        }
        for (String key : terms.keys().subList(from, to)) {
            differ += compare(outlet, key, setup) ? 1 : 0;
        }
        boolean all = to == terms.keys().size();
        return new Step(
                to - from,
                all ? null : to + " " + differ,
                Duration.ZERO,
                List.of(),
                all ? differ + " of " + to + " otherwise than we made them" : null);
    }

    /** Whether it is otherwise than we made it. */
    private boolean compare(Outlet outlet, String key, Setup setup) {
        Introduction known = introductions.find(outlet.name(), key).orElse(null);
        if (known == null || known.there() == null) {
            return false;
        }
        List<String> differences = ways.dispatcher()
                .through(outlet.name(), sink -> differences(outlet, known, setup, sink))
                .orElse(null);
        if (differences == null) {
            return false;
        }
        introductions.compared(outlet.name(), key, differences);
        return !differences.isEmpty();
    }

    /** Null if the destination did not say. */
    private List<String> differences(Outlet outlet, Introduction known, Setup setup, Sink sink) {
        Recipe recipe = outlet.recipe();
        RecipeStep step = recipe.step(StepName.COMPARE)
                .or(() -> recipe.step(StepName.FIND))
                .orElse(null);
        if (step == null) {
            return null;
        }
        Scope scope = known.there().in(scopes.of(known.device(), setup));
        try {
            StepExchange.Made made =
                    exchange.make(outlet, step, scope, known.outlet() + "/" + known.device() + "/compare", 1, sink);
            return switch (made.result().outcome()) {
                case StepOutcome.Done ignored -> step.differences(made.asked().answer(), scope);
                case StepOutcome.Absent ignored -> List.of(DELETED);
                default -> null;
            };
        } catch (ShapeFailure e) {
            return null;
        }
    }
}
