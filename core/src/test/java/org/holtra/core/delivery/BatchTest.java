package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.junit.jupiter.api.Test;

class BatchTest {

    private static Batch batch(String form) throws ExpressionProblem {
        return new Batch(
                10,
                1_000,
                Duration.ofSeconds(1),
                form,
                new ExpressionCompiler(Map.of()).withVariable(Answer.VARIABLE).expression("answer.body.results"));
    }

    private static Answer answer(Object body) {
        return new Answer("207", Map.of("status", 207L), body);
    }

    @Test
    void anAnswerTellsOfEachMessageInTheOrderSent() throws ExpressionProblem {
        Map<String, Object> refused = Map.of("status", 422L, "why", "too old");
        Map<String, Object> taken = Map.of("ok", true);
        Answer answer = answer(Map.of("results", List.of(refused, taken)));

        assertThat(batch("list").each(answer, 2)).isEqualTo(Optional.of(List.of(refused, taken)));
    }

    @Test
    void anAnswerThatTellsOfFewerOrOfNoneTellsNothing() throws ExpressionProblem {
        assertThat(batch("list").each(answer(Map.of("results", List.of(1L, 2L))), 3))
                .isEmpty();
        assertThat(batch("list").each(answer("fine"), 1)).isEmpty();
    }

    @Test
    void batchesThatAreWrittenTheSameAreTheSame() throws ExpressionProblem {
        assertThat(batch("list")).isEqualTo(batch("list")).hasSameHashCodeAs(batch("list"));
        assertThat(batch("list")).isNotEqualTo(batch("lines")).isNotEqualTo(batch(null));
    }
}
