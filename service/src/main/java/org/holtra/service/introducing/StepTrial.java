package org.holtra.service.introducing;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Learned;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.There;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.Introductions;
import org.springframework.stereotype.Component;

/** Shows what each step of a recipe would send for one device, and makes the next one when a person says so. */
@Component
public class StepTrial {

    private static final String NOT_YET = "(comes with the answer to an earlier step)";

    /**
     * A step as it would be sent.
     *
     * @param right that it needs, as the recipe says; or null
     * @param request in one line; null if it cannot be made
     * @param body as text; null for none
     * @param failure why it cannot be made; or null
     * @param isNext whether it is the one that comes next
     */
    public record Planned(
            String step,
            String right,
            String request,
            Map<String, String> fields,
            String body,
            String failure,
            boolean isNext) {}

    /** @param now how the device stands there; null if nobody asked for it yet */
    public record Plan(String device, List<Planned> steps, Introduction now) {}

    /**
     * What came of a step.
     *
     * @param outcome in a word
     * @param answer the beginning of what was answered; null if nothing was
     * @param now how the device stands there now; null if nothing of it is there any longer
     */
    public record Made(
            String step, String request, String body, String outcome, String reason, String answer, Introduction now) {}

    private final StepScope scopes;
    private final StepExchange exchange;
    private final IntroductionRun run;
    private final Introductions introductions;
    private final DryRun.Ways ways;

    StepTrial(
            StepScope scopes,
            StepExchange exchange,
            IntroductionRun run,
            Introductions introductions,
            DryRun.Ways ways) {
        this.scopes = scopes;
        this.exchange = exchange;
        this.run = run;
        this.introductions = introductions;
        this.ways = ways;
    }

    /** @param outlet as it is, or as somebody wants it to be */
    public Plan plan(Outlet outlet, String device) {
        Introduction now = introductions.look(outlet.name(), device).orElse(null);
        return ways.dispatcher().apart(outlet, sink -> new Plan(device, steps(outlet, device, now, sink), now));
    }

    private List<Planned> steps(Outlet outlet, String device, Introduction now, Sink sink) {
        Recipe recipe = outlet.recipe();
        Setup setup = ways.setups().current();
        Scope scope = scopes.of(device, setup);
        Optional<StepName> next =
                now == null ? recipe.first() : now.isKnown() ? Optional.empty() : IntroductionRun.next(now, recipe);
        List<Planned> planned = new ArrayList<>();
        recipe.steps().forEach((name, step) -> {
            boolean isNext = next.filter(name::equals).isPresent();
            try {
                There there = now != null && now.there() != null ? now.there() : recipe.named(scope, device);
                There seen = there.id() == null ? there.and(Learned.called(NOT_YET)) : there;
                StepExchange.Preview preview = exchange.preview(outlet, step, seen.in(scope), sink);
                planned.add(new Planned(
                        name.word(),
                        step.right(),
                        preview.exchange().summary(),
                        preview.exchange().fields(),
                        text(preview.body()),
                        null,
                        isNext));
            } catch (ShapeFailure | IllegalArgumentException e) {
                planned.add(new Planned(name.word(), step.right(), null, Map.of(), null, e.getMessage(), isNext));
            }
        });
        return planned;
    }

    /**
     * Makes the next step of a device's introduction by the recipe that is active, and no other: it goes on when a person says
     * so again, or has it go on by itself.
     *
     * @throws IllegalArgumentException if there is nothing to do, with a sentence for people
     */
    public Made next(Outlet outlet, String device, String by) {
        Introduction at = introductions.byHand(outlet.name(), device, by);
        if (at.isKnown()) {
            throw new IllegalArgumentException("Device " + device + " is known at " + outlet.name() + ".");
        }
        IntroductionRun.Stepped stepped = ways.dispatcher()
                .through(
                        outlet.name(),
                        sink -> run.step(at, outlet, ways.setups().current(), sink))
                .orElse(Optional.empty())
                .orElseThrow(() -> new IllegalArgumentException(
                        "Device " + device + " was moved by somebody else at the same time; look again."));
        StepExchange.Made made = stepped.made();
        Exchange seen = made == null ? null : made.exchange();
        return new Made(
                stepped.step() == null ? null : stepped.step().word(),
                seen == null ? null : seen.summary(),
                made == null ? null : text(made.body()),
                word(stepped.outcome()),
                stepped.outcome() == null ? null : stepped.outcome().reason(),
                seen == null || seen.answer() == null ? null : new String(seen.answer(), StandardCharsets.UTF_8),
                introductions.look(outlet.name(), device).orElse(null));
    }

    private static String word(StepOutcome outcome) {
        return switch (outcome) {
            case null -> "done";
            case StepOutcome.Done ignored -> "done";
            case StepOutcome.Absent ignored -> "absent";
            case StepOutcome.TryLater ignored -> "try later";
            case StepOutcome.Blocked ignored -> "outlet blocked";
            case StepOutcome.Refused refused -> refused.why().word();
        };
    }

    private static String text(byte[] body) {
        return body.length == 0 ? null : new String(body, StandardCharsets.UTF_8);
    }
}
