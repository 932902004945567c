package org.holtra.core.introduction;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.Answer;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.shape.Shape;
import org.junit.jupiter.api.Test;

class RecipeStepTest {

    private static final ExpressionCompiler COMPILER =
            new ExpressionCompiler().withVariable(There.VARIABLE).withVariable(Answer.VARIABLE);
    private static final Scope SCOPE =
            new There("a", "d-1", Map.of()).in(new Scope(Map.of(), Map.of(), Map.of("key", "a")));
    private static final StepOutcome DONE = new StepOutcome.Done();

    private static Answer answer(Object body) {
        return new Answer("200", Map.of("status", 200L), body);
    }

    private static RecipeStep step(StepName name, RecipeStep.Takes takes, StepRule... rules) {
        return new RecipeStep(name, Shape.asRead(), null, List.of(rules), takes);
    }

    private static RecipeStep.Takes id(String expression) throws ExpressionProblem {
        return new RecipeStep.Takes(null, COMPILER.expression(expression), Map.of(), null, Map.of());
    }

    @Test
    void aLookFindsADeviceByItsId() throws ExpressionProblem {
        RecipeStep find = step(StepName.FIND, id("answer.body.items[0].id"));

        RecipeStep.Result found = find.judge(DONE, answer(Map.of("items", List.of(Map.of("id", 17L)))), SCOPE, null);
        RecipeStep.Result none = find.judge(DONE, answer(Map.of("items", List.of())), SCOPE, null);

        assertThat(found.outcome()).isEqualTo(DONE);
        assertThat(found.learned().id()).isEqualTo("17");
        assertThat(none.outcome()).isInstanceOf(StepOutcome.Absent.class);
        assertThat(none.outcome().reason()).contains("answer.body.items[0].id");
    }

    @Test
    void aLookGoesByItsConditionWhereItHasOne() throws ExpressionProblem {
        RecipeStep taken = step(
                StepName.TAKEN,
                new RecipeStep.Takes(COMPILER.condition("size(answer.body) > 0"), null, Map.of(), null, Map.of()));

        assertThat(taken.judge(DONE, answer(List.of("x")), SCOPE, null).outcome())
                .isEqualTo(DONE);
        assertThat(taken.judge(DONE, answer(List.of()), SCOPE, null).outcome()).isInstanceOf(StepOutcome.Absent.class);
    }

    @Test
    void theFirstRuleThatAppliesDecides() throws ExpressionProblem {
        StepRule rule = new StepRule(
                COMPILER.condition("answer.body.code == 'LIMIT'"), StepRule.Meaning.QUOTA, "the plan is full");
        RecipeStep create = step(StepName.CREATE, RecipeStep.Takes.NOTHING, rule);

        assertThat(create.judge(DONE, answer(Map.of("code", "LIMIT")), SCOPE, null)
                        .outcome())
                .isEqualTo(new StepOutcome.Refused(Why.QUOTA, "the destination answered 200: the plan is full"));
        assertThat(create.judge(DONE, answer(Map.of("code", "OK")), SCOPE, null).outcome())
                .isEqualTo(DONE);
    }

    @Test
    void anAnswerWithoutWhatTheRecipeTakesIsToldWithTheExpression() throws ExpressionProblem {
        RecipeStep create = step(
                StepName.CREATE,
                new RecipeStep.Takes(
                        null,
                        COMPILER.expression("answer.body.id"),
                        Map.of("group", COMPILER.expression("answer.body.group")),
                        COMPILER.expression("answer.body.token"),
                        Map.of()));

        RecipeStep.Result whole =
                create.judge(DONE, answer(Map.of("id", "d-9", "group", "g", "token", "t")), SCOPE, null);
        RecipeStep.Result bare = create.judge(DONE, answer(Map.of("id", "d-9", "group", "g")), SCOPE, null);

        assertThat(whole.learned()).isEqualTo(new Learned("d-9", Map.of("group", "g"), "t"));
        assertThat(whole.learned().toString()).doesNotContain("token").contains("a secret");
        assertThat(bare.outcome().reason()).isEqualTo("the answer to create has no `answer.body.token`");
    }

    @Test
    void whatHasNoAnswerIsWhatTheKindSaysOfIt() {
        StepOutcome later = new StepOutcome.TryLater("no answer within 10000 ms", null, true);

        assertThat(step(StepName.CREATE, RecipeStep.Takes.NOTHING)
                        .judge(later, null, SCOPE, null)
                        .outcome())
                .isSameAs(later);
    }

    @Test
    void aComparisonNamesEachDifference() throws ExpressionProblem {
        RecipeStep compare = step(
                StepName.COMPARE,
                new RecipeStep.Takes(
                        null,
                        null,
                        Map.of(),
                        null,
                        Map.of(
                                "renamed", COMPILER.condition("answer.body.name != there.name"),
                                "disabled", COMPILER.condition("answer.body.disabled"))));

        assertThat(compare.differences(answer(Map.of("name", "b", "disabled", false)), SCOPE))
                .containsExactly("renamed");
    }
}
