package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.ExpressionProblem;
import org.junit.jupiter.api.Test;

class BatchTest {

    private static final String JSON = "application/json";

    private static Batch batch(Batch.Form form) throws ExpressionProblem {
        return new Batch(
                10,
                1_000,
                Duration.ofSeconds(1),
                form,
                new ExpressionCompiler(Map.of()).withVariable(Answer.VARIABLE).expression("answer.body.results"));
    }

    private static List<byte[]> bodies(String... texts) {
        return List.of(texts).stream().map(String::getBytes).toList();
    }

    @Test
    void aListIsAJsonArrayOfTheContents() throws ExpressionProblem {
        Batch list = batch(Batch.Form.LIST);

        assertThat(list.join(bodies("{\"a\":1}", "{\"b\":2}"))).asString().isEqualTo("[{\"a\":1},{\"b\":2}]");
        assertThat(list.contentType(JSON)).isEqualTo(JSON);
    }

    @Test
    void linesStandOneAContent() throws ExpressionProblem {
        Batch lines = batch(Batch.Form.LINES);

        assertThat(lines.join(bodies("{\"a\":1}", "{\"b\":2}"))).asString().isEqualTo("{\"a\":1}\n{\"b\":2}\n");
        assertThat(lines.join(bodies("a,1\r\n", "b,2\n"))).asString().isEqualTo("a,1\nb,2\n");
        assertThat(lines.contentType(JSON)).isEqualTo("application/x-ndjson");
        assertThat(lines.contentType("text/csv")).isEqualTo("text/csv");
    }

    @Test
    void whatIsNoJsonCannotStandInAListAndABreakNotInALine() throws ExpressionProblem {
        assertThat(batch(Batch.Form.LIST).whyNot("text/plain", new byte[0]))
                .contains("its outlet sends JSON arrays, and the lane's shape makes text/plain");
        assertThat(batch(Batch.Form.LIST).whyNot("application/vnd.x+json", "{}".getBytes()))
                .isEmpty();
        assertThat(batch(Batch.Form.LINES).whyNot(JSON, "{\n}".getBytes())).isPresent();
        assertThat(batch(Batch.Form.LINES).whyNot(JSON, "{}".getBytes())).isEmpty();
        assertThat(batch(Batch.Form.LINES).whyNot("text/csv", "a,1\r\n".getBytes()))
                .isEmpty();
    }

    @Test
    void anAnswerTellsOfEachMessageByItsOwnStatusOrTheWholeOnes() throws ExpressionProblem {
        Answer answer = new Answer(
                207,
                Map.of(),
                Map.of("results", List.of(Map.of("status", 422L, "why", "too old"), Map.of("ok", true))));

        List<Answer> each = batch(Batch.Form.LIST).each(answer, 2).orElseThrow();

        assertThat(each).extracting(Answer::status).containsExactly(422, 207);
        assertThat(each.getFirst().body()).isEqualTo(Map.of("status", 422L, "why", "too old"));
        assertThat(batch(Batch.Form.LIST).each(answer, 3)).isEmpty();
        assertThat(batch(Batch.Form.LIST).each(new Answer(200, Map.of(), "fine"), 1))
                .isEmpty();
    }

    @Test
    void batchesThatAreWrittenTheSameAreTheSame() throws ExpressionProblem {
        assertThat(batch(Batch.Form.LIST)).isEqualTo(batch(Batch.Form.LIST)).hasSameHashCodeAs(batch(Batch.Form.LIST));
        assertThat(batch(Batch.Form.LIST)).isNotEqualTo(batch(Batch.Form.LINES));
    }
}
