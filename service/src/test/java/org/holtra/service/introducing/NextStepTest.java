package org.holtra.service.introducing;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.introduction.Learned;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.introduction.There;
import org.holtra.core.shape.Shape;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.junit.jupiter.api.Test;

class NextStepTest {

    private static final Instant NOW = Instant.parse("2026-03-01T04:00:00Z");
    private static final RecipeStep.Result DONE = new RecipeStep.Result(new StepOutcome.Done(), Learned.called("d-1"));

    private static Recipe recipe(boolean completes, StepName... steps) {
        return new Recipe(
                null,
                Stream.of(steps)
                        .collect(Collectors.toMap(
                                step -> step,
                                step -> new RecipeStep(
                                        step, Shape.asRead(), "do it", List.of(), RecipeStep.Takes.NOTHING))),
                completes,
                new Recipe.Manner(4, null, null),
                List.of(),
                null,
                Map.of());
    }

    private static Expression secret() {
        try {
            return new ExpressionCompiler().withVariable("answer").expression("answer.body.token");
        } catch (ExpressionProblem e) {
            throw new AssertionError(e);
        }
    }

    /** A recipe whose creation brings a secret of the device's own. */
    private static Recipe bringingSecret(StepName... steps) {
        Recipe plain = recipe(false, steps);
        RecipeStep create = new RecipeStep(
                StepName.CREATE,
                Shape.asRead(),
                null,
                List.of(),
                new RecipeStep.Takes(null, null, Map.of(), secret(), Map.of()));
        Map<StepName, RecipeStep> all = new HashMap<>(plain.steps());
        all.put(StepName.CREATE, create);
        return new Recipe(null, all, false, plain.manner(), List.of(), null, Map.of());
    }

    private static NextStep next(Recipe recipe) {
        return new NextStep(recipe, NOW, new Random(1));
    }

    private static final Recipe WHOLE =
            recipe(false, StepName.FIND, StepName.CREATE, StepName.ACTIVATE, StepName.DESCRIBE, StepName.REMOVE);

    private static Introduction at(StepName step, boolean creating) {
        return new Introduction(
                "cloud",
                "a",
                IntroductionState.INTRODUCING,
                new There("a", null, Map.of()),
                null,
                new Introduction.Progress(step, false, creating, false, 1, NOW, NOW, 0, 1),
                null,
                new Introduction.Asked("a message", null));
    }

    private static RecipeStep.Result refused(Why why) {
        return RecipeStep.Result.of(new StepOutcome.Refused(why, "no"));
    }

    @Test
    void whatIsFoundBeforeAnythingWasCreatedIsUsedAsItIs() {
        NextStep.Moved moved = next(WHOLE).after(at(StepName.FIND, false), StepName.FIND, DONE);

        assertThat(moved.to().state()).isEqualTo(IntroductionState.KNOWN);
        assertThat(moved.to().progress().existed()).isTrue();
        assertThat(moved.made()).isEmpty();
    }

    @Test
    void whatIsFoundIsCompletedWhereTheRecipeSaysSo() {
        Recipe completing = recipe(true, StepName.FIND, StepName.CREATE, StepName.ACTIVATE);

        NextStep.Moved moved = next(completing).after(at(StepName.FIND, false), StepName.FIND, DONE);

        assertThat(moved.to().progress().step()).isEqualTo(StepName.ACTIVATE);
        assertThat(moved.to().progress().existed()).isTrue();
    }

    @Test
    void whatIsFoundAfterACreationOfUnknownOutcomeIsOurs() {
        NextStep.Moved moved = next(WHOLE).after(at(StepName.FIND, true), StepName.FIND, DONE);

        assertThat(moved.to().progress().existed()).isFalse();
        assertThat(moved.to().progress().step()).isEqualTo(StepName.ACTIVATE);
        assertThat(moved.made()).containsExactly("device");
    }

    @Test
    void aCreationThatHasNoAnswerIsLookedForFirst() {
        StepOutcome unknown = new StepOutcome.TryLater("no answer", null, true);

        Introduction to = next(WHOLE)
                .after(at(StepName.CREATE, true), StepName.CREATE, RecipeStep.Result.of(unknown))
                .to();

        assertThat(to.progress().step()).isEqualTo(StepName.FIND);
        assertThat(to.progress().creating()).isTrue();
        assertThat(to.progress().next()).isAfter(NOW);
    }

    @Test
    void theDestinationsOwnTimeIsKept() {
        Instant later = NOW.plus(Duration.ofHours(3));

        Introduction to = next(WHOLE)
                .after(
                        at(StepName.DESCRIBE, true),
                        StepName.DESCRIBE,
                        RecipeStep.Result.of(new StepOutcome.TryLater("busy", later, false)))
                .to();

        assertThat(to.progress().next()).isEqualTo(later);
        assertThat(to.progress().step()).isEqualTo(StepName.DESCRIBE);
    }

    @Test
    void aTakenNameIsLookedAtOnceMoreAndThenRefused() {
        Introduction again = next(WHOLE)
                .after(at(StepName.CREATE, true), StepName.CREATE, refused(Why.NAME_TAKEN))
                .to();
        assertThat(again.progress().step()).isEqualTo(StepName.FIND);
        assertThat(again.progress().creating()).isFalse();

        Introduction created = next(WHOLE)
                .after(again, StepName.FIND, RecipeStep.Result.of(new StepOutcome.Absent("not there")))
                .to();
        Introduction refused = next(WHOLE)
                .after(created, StepName.CREATE, refused(Why.NAME_TAKEN))
                .to();

        assertThat(refused.state()).isEqualTo(IntroductionState.REFUSED);
        assertThat(refused.refusal().why()).isEqualTo(Why.NAME_TAKEN);
        assertThat(refused.progress().next()).isEqualTo(Introduction.Progress.NEVER);
    }

    @Test
    void whatIsNotFoundAfterAnInterruptedCreationIsCreatedAndNotLookedForAgain() {
        Introduction interrupted = at(StepName.CREATE, true);
        assertThat(IntroductionRun.next(interrupted, WHOLE)).contains(StepName.FIND);

        Introduction looked = next(WHOLE)
                .after(interrupted, StepName.FIND, RecipeStep.Result.of(new StepOutcome.Absent("not there")))
                .to();

        assertThat(IntroductionRun.next(looked, WHOLE)).contains(StepName.CREATE);
    }

    @Test
    void aNameTakenByWhatWeAskedForBeforeAndCameLateIsOurs() {
        Introduction asked = next(WHOLE)
                .after(
                        at(StepName.CREATE, true),
                        StepName.CREATE,
                        RecipeStep.Result.of(new StepOutcome.TryLater("no answer", null, true)))
                .to();
        Introduction looked = next(WHOLE)
                .after(asked, StepName.FIND, RecipeStep.Result.of(new StepOutcome.Absent("not there")))
                .to();
        Introduction taken = next(WHOLE)
                .after(looked, StepName.CREATE, refused(Why.NAME_TAKEN))
                .to();
        assertThat(taken.progress().step()).isEqualTo(StepName.FIND);

        Introduction found = next(WHOLE).after(taken, StepName.FIND, DONE).to();

        assertThat(found.progress().existed()).isFalse();
        assertThat(found.progress().step()).isEqualTo(StepName.ACTIVATE);
    }

    @Test
    void whatWeMadeAndWhoseSecretWasLostIsMadeAnew() {
        Recipe recipe = bringingSecret(StepName.FIND, StepName.CREATE, StepName.ACTIVATE, StepName.REMOVE);

        Introduction found = next(recipe)
                .after(at(StepName.CREATE, true), StepName.FIND, DONE)
                .to();
        assertThat(IntroductionRun.next(found, recipe)).contains(StepName.REMOVE);
        assertThat(found.there().id()).isEqualTo("d-1");
        NextStep.Moved removed = next(recipe).after(found, StepName.REMOVE, DONE);

        assertThat(removed.isRemoved()).isFalse();
        assertThat(removed.to().there().id()).isNull();
        assertThat(IntroductionRun.next(removed.to(), recipe)).contains(StepName.CREATE);
    }

    @Test
    void whatCannotBeRemovedToBeMadeAnewIsLookedForWhenItIsTriedAgain() {
        Recipe recipe = bringingSecret(StepName.FIND, StepName.CREATE, StepName.REMOVE);
        Introduction found = next(recipe)
                .after(at(StepName.CREATE, true), StepName.FIND, DONE)
                .to();

        Introduction refused = next(recipe)
                .after(found, StepName.REMOVE, refused(Why.RIGHT_MISSING))
                .to();

        assertThat(refused.isRemoval()).isFalse();
        assertThat(IntroductionRun.next(refused, recipe)).contains(StepName.FIND);
    }

    @Test
    void aRefusedRemovalStaysARemoval() {
        Introduction removing = at(StepName.REMOVE, true).with(IntroductionState.REMOVING, null);

        Introduction refused = next(WHOLE)
                .after(removing, StepName.REMOVE, refused(Why.RIGHT_MISSING))
                .to();

        assertThat(refused.state()).isEqualTo(IntroductionState.REFUSED);
        assertThat(refused.isRemoval()).isTrue();
    }

    @Test
    void whatWeMadeAndWhoseSecretWasLostIsRefusedWhereNothingCanBeRemoved() {
        Introduction found = next(bringingSecret(StepName.FIND, StepName.CREATE))
                .after(at(StepName.CREATE, true), StepName.FIND, DONE)
                .to();

        assertThat(found.state()).isEqualTo(IntroductionState.REFUSED);
        assertThat(found.refusal().reason()).contains("its secret was lost");
    }

    @Test
    void whatSomebodyElseMadeNeedsNoSecretOfItsOwn() {
        Introduction found = next(bringingSecret(StepName.FIND, StepName.CREATE, StepName.REMOVE))
                .after(at(StepName.FIND, false), StepName.FIND, DONE)
                .to();

        assertThat(found.isKnown()).isTrue();
    }

    @Test
    void aDeviceWhoseAnswerIsReadWronglyStaysOurs() {
        Introduction refused = next(WHOLE)
                .after(at(StepName.CREATE, true), StepName.CREATE, refused(Why.ANSWER_INCOMPLETE))
                .to();
        assertThat(refused.state()).isEqualTo(IntroductionState.REFUSED);

        Introduction found = next(WHOLE).after(refused, StepName.FIND, DONE).to();

        assertThat(found.progress().existed()).isFalse();
    }

    @Test
    void aMissingRightIsNamedAndTriedAgainLater() {
        Introduction to = next(WHOLE)
                .after(at(StepName.CREATE, true), StepName.CREATE, refused(Why.RIGHT_MISSING))
                .to();

        assertThat(to.refusal().reason()).isEqualTo("it needs the right to do it; no");
        assertThat(to.progress().next()).isEqualTo(NOW.plus(NextStep.AGAIN_AFTER_GENERAL_REFUSAL));
    }

    @Test
    void whatAPersonHasInHandDoesNotMoveByItself() {
        Introduction held = at(StepName.FIND, false);
        Introduction inHand = held.with(held.progress().to(StepName.FIND, Introduction.Progress.NEVER, 0));

        Introduction to = next(WHOLE)
                .after(inHand, StepName.FIND, RecipeStep.Result.of(new StepOutcome.Absent("not there")))
                .to();

        assertThat(to.progress().step()).isEqualTo(StepName.CREATE);
        assertThat(to.progress().next()).isEqualTo(Introduction.Progress.NEVER);
    }

    @Test
    void whatIsNotThereAnyLongerCountsAsRemoved() {
        Introduction removing = at(StepName.REMOVE, false).with(IntroductionState.REMOVING, null);

        assertThat(next(WHOLE)
                        .after(removing, StepName.REMOVE, RecipeStep.Result.of(new StepOutcome.Absent("404")))
                        .isRemoved())
                .isTrue();
    }

    @Test
    void aDestinationWithoutIdsKnowsADeviceByItsName() {
        Recipe put = recipe(false, StepName.CREATE);

        Introduction to = next(put)
                .after(at(StepName.CREATE, true), StepName.CREATE, RecipeStep.Result.of(new StepOutcome.Done()))
                .to();

        assertThat(to.there().id()).isEqualTo("a");
    }
}
