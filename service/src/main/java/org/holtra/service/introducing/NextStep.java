package org.holtra.service.introducing;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.random.RandomGenerator;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.introduction.Learned;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.introduction.There;
import org.holtra.service.credentials.Credential;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.introductions.MadeThere;

/** Where an introduction stands after a step: a function of where it stood and what was answered. */
final class NextStep {

    /** What is refused for all devices alike, such as for want of a right, is tried again so much later. */
    static final Duration AGAIN_AFTER_GENERAL_REFUSAL = Duration.ofMinutes(1);

    private static final Instant NEVER = Introduction.Progress.NEVER;
    private static final RetrySchedule PAUSES =
            new RetrySchedule(Duration.ofSeconds(1), 2, Duration.ofMinutes(10), Duration.ofDays(365));

    private final Recipe recipe;
    private final Instant now;
    private final RandomGenerator random;

    NextStep(Recipe recipe, Instant now, RandomGenerator random) {
        this.recipe = recipe;
        this.now = now;
        this.random = random;
    }

    /**
     * @param to how it stands now
     * @param made what was made there by the step: {@code device}, {@code description} or {@code credential}
     * @param isRemoved whether nothing of it is there any longer
     */
    record Moved(Introduction to, List<String> made, boolean isRemoved) {

        /**
         * Whether it must be written down: a step that only led to the next one is made again after a crash, and does no harm.
         *
         * @param exchange null if nothing was sent
         */
        boolean mustBeKept(StepExchange.Made exchange) {
            Learned learned = exchange == null ? null : exchange.result().learned();
            boolean brought = learned != null
                    && (learned.id() != null
                            || learned.secret() != null
                            || !learned.kept().isEmpty());
            return brought
                    || !made.isEmpty()
                    || to.state() != IntroductionState.INTRODUCING
                    || to.refusal() != null
                    || NEVER.equals(to.progress().next());
        }

        /** The same with a credential of the device's own. */
        Moved with(Credential own) {
            return new Moved(to.with(own), made, isRemoved);
        }
    }

    /** The recipe has no such step: what is to be removed stays there, and what is to be introduced needs nothing. */
    Moved without(Introduction from, StepName step) {
        return step == StepName.REMOVE
                ? refused(from, step, Why.OTHER, "the recipe has no step that removes a device")
                : to(at(called(from), IntroductionState.KNOWN, null, NEVER, null));
    }

    Moved after(Introduction from, StepName step, RecipeStep.Result result) {
        return switch (result.outcome()) {
            case StepOutcome.Done ignored -> done(from, step, result.learned());
            case StepOutcome.Absent(String reason) -> absent(from, step, reason);
            case StepOutcome.TryLater(String reason, Instant notBefore, boolean unknown) ->
                later(from, step, reason, notBefore);
            case StepOutcome.Blocked(String reason) ->
                to(waits(from, step, new Introduction.Refusal(null, reason), now.plus(AGAIN_AFTER_GENERAL_REFUSAL)));
            case StepOutcome.Refused(Why why, String reason) -> refused(from, step, why, reason);
        };
    }

    private Moved done(Introduction from, StepName step, Learned learned) {
        if (step == StepName.REMOVE) {
            return gone(from);
        }
        There there = from.there().and(learned);
        List<String> made = new ArrayList<>();
        boolean existed = from.progress().existed();
        StepName done = step;
        if (step == StepName.FIND) {
            // What is found after we may have created it is ours; else somebody made it before.
            existed = !from.progress().creating();
            done = StepName.CREATE;
            if (!existed) {
                made.add(MadeThere.DEVICE);
            }
        } else if (step == StepName.CREATE) {
            made.add(MadeThere.DEVICE);
        } else if (step == StepName.DESCRIBE) {
            made.add(MadeThere.DESCRIPTION);
        }
        if (learned.secret() != null) {
            made.add(MadeThere.CREDENTIAL);
        }
        if (step == StepName.FIND && !existed && isSecretLost(from, learned)) {
            return new Moved(withoutSecret(from.with(there)), made, false);
        }
        Optional<StepName> next = existed && !recipe.completes() ? Optional.empty() : recipe.after(done);
        Introduction learnt = from.with(there).with(from.progress().existed(existed));
        Introduction to = next.map(at -> at(learnt, IntroductionState.INTRODUCING, at, now, null))
                .orElseGet(() -> at(called(learnt), IntroductionState.KNOWN, null, NEVER, null));
        return new Moved(to, made, false);
    }

    /** The answer that brought it never came, or was not written down: no destination tells a secret twice. */
    private boolean isSecretLost(Introduction from, Learned learned) {
        boolean bringsSecret =
                recipe.step(StepName.CREATE).filter(RecipeStep::bringsSecret).isPresent();
        return bringsSecret && learned.secret() == null && from.credential() == null;
    }

    /** We made it, and nobody has used it yet: it is made once more. */
    private Introduction withoutSecret(Introduction ours) {
        return recipe.step(StepName.REMOVE).isPresent()
                ? at(
                        ours,
                        IntroductionState.INTRODUCING,
                        StepName.REMOVE,
                        now,
                        new Introduction.Refusal(
                                null, "the answer with its secret was lost: it is removed and made anew"))
                : at(
                        ours,
                        IntroductionState.REFUSED,
                        StepName.FIND,
                        NEVER,
                        new Introduction.Refusal(
                                Why.ANSWER_INCOMPLETE,
                                "it was created, and the answer with its secret was lost; remove it there and try again,"
                                        + " or give the recipe a step that removes"));
    }

    /** It is not there: for good, or to be made anew. */
    private Moved gone(Introduction from) {
        if (from.state() == IntroductionState.REMOVING) {
            return new Moved(from, List.of(), true);
        }
        Introduction nowhere = from.with(new There(from.there().name(), null, Map.of()))
                .with(from.progress().creating(false));
        return to(at(nowhere, IntroductionState.INTRODUCING, StepName.CREATE, now, null));
    }

    private static Introduction called(Introduction one) {
        There there = one.there();
        return there.id() == null ? one.with(there.and(Learned.called(there.name()))) : one;
    }

    private Moved absent(Introduction from, StepName step, String reason) {
        if (step == StepName.REMOVE) {
            return gone(from);
        }
        if (step == StepName.FIND) {
            // Whatever was begun before this look did not create it.
            Introduction looked = from.with(from.progress().creating(false));
            return recipe.step(StepName.CREATE).isPresent()
                    ? to(at(looked, IntroductionState.INTRODUCING, StepName.CREATE, now, from.refusal()))
                    : refused(from, step, Why.OTHER, "it is not there, and the recipe does not create it: " + reason);
        }
        return refused(from, step, Why.OTHER, reason);
    }

    /** What may have been created is looked for before it is created once more. */
    private Moved later(Introduction from, StepName step, String reason, Instant notBefore) {
        Instant next = now.plus(PAUSES.delay(from.progress().attempts() + 1, random));
        boolean looks = step == StepName.CREATE && recipe.step(StepName.FIND).isPresent();
        return to(waits(
                from,
                looks ? StepName.FIND : step,
                new Introduction.Refusal(null, reason),
                notBefore != null && notBefore.isAfter(next) ? notBefore : next));
    }

    private Moved refused(Introduction from, StepName step, Why why, String reason) {
        boolean creates = step == StepName.CREATE;
        boolean lookedAgain = from.refusal() != null && from.refusal().why() == Why.NAME_TAKEN;
        if (creates
                && why == Why.NAME_TAKEN
                && !lookedAgain
                && recipe.step(StepName.FIND).isPresent()) {
            // It was made after the look: by what we asked for before, if that came late, or else by somebody else.
            boolean mayBeOurs = from.progress().attempts() > 0;
            return to(waits(
                    from.with(from.progress().creating(mayBeOurs)),
                    StepName.FIND,
                    new Introduction.Refusal(why, reason),
                    now));
        }
        String right = recipe.step(step).map(RecipeStep::right).orElse(null);
        String told =
                why == Why.RIGHT_MISSING && right != null ? "it needs the right to " + right + "; " + reason : reason;
        // One that was to be made anew is looked for first when it is tried again.
        boolean wasMadeAnew = step == StepName.REMOVE && from.state() == IntroductionState.INTRODUCING;
        boolean madeNothing = creates && why != Why.ANSWER_INCOMPLETE;
        return to(at(
                madeNothing ? from.with(from.progress().creating(false)) : from,
                IntroductionState.REFUSED,
                wasMadeAnew ? StepName.FIND : step,
                why.isGeneral() ? now.plus(AGAIN_AFTER_GENERAL_REFUSAL) : NEVER,
                new Introduction.Refusal(why, told)));
    }

    private static Moved to(Introduction to) {
        return new Moved(to, List.of(), false);
    }

    /** What a person has in hand moves when that person says so. */
    private static Instant due(Introduction from, Instant next) {
        return NEVER.equals(from.progress().next()) ? NEVER : next;
    }

    /** It is tried again at that time. */
    private static Introduction waits(Introduction from, StepName step, Introduction.Refusal because, Instant next) {
        return from.with(from.progress()
                        .to(step, due(from, next), from.progress().attempts() + 1))
                .with(
                        from.state() == IntroductionState.REMOVING ? from.state() : IntroductionState.INTRODUCING,
                        because);
    }

    private Introduction at(
            Introduction from, IntroductionState state, StepName step, Instant next, Introduction.Refusal refusal) {
        // What goes back to a look and on from there is still at its creation.
        int attempts = step == StepName.CREATE ? from.progress().attempts() : 0;
        Introduction.Progress progress = from.progress().to(step, due(from, next), attempts);
        return from.with(state == from.state() ? progress : progress.since(now)).with(state, refusal);
    }
}
