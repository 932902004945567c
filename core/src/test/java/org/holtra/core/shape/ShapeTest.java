package org.holtra.core.shape;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.content.JsonFormat;
import org.junit.jupiter.api.Test;

class ShapeTest {

    private static final List<ShapeField> FIELDS = List.of(
            ShapeField.text("path", text -> "<" + text + ">"),
            ShapeField.named("query", text -> text),
            ShapeField.named("headers", text -> text));

    private static final String DATA =
            "{\"t\":21.50,\"n\":7,\"name\":\"row 4/B\",\"on\":true,\"none\":null,\"list\":[1,2.5],\"line\":\"a\\r\\nb\"}";

    private static Scope scope() throws Exception {
        return new Scope(
                new JsonFormat().parse(DATA.getBytes(StandardCharsets.UTF_8)), Map.of(), Map.of("key", "cs-07"));
    }

    private static Content fill(Map<String, Object> source) throws Exception {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), FIELDS);
        Shape shape = compiler.compile(source);
        assertThat(compiler.misfits()).isEmpty();
        return shape.fill(scope());
    }

    private static String body(Object tree) throws Exception {
        return new String(fill(Map.of("body", tree)).body(), StandardCharsets.UTF_8);
    }

    @Test
    void aLoneExpressionKeepsItsType() throws Exception {
        assertThat(body(List.of(
                        "${data.t}", "${data.n}", "${data.on}", "${data.none}", "${data.list}", "${data.name}")))
                .isEqualTo("[21.5,7,true,null,[1,2.5],\"row 4/B\"]");
    }

    @Test
    void textAroundAnExpressionJoins() throws Exception {
        assertThat(body("at ${device.key}: ${data.n}, ${data.none}!")).isEqualTo("\"at cs-07: 7, !\"");
    }

    @Test
    void bracesAndQuotesInsideAnExpressionAreItsOwn() throws Exception {
        assertThat(body("${{'a': {'b': '}'}}.a.b}")).isEqualTo("\"}\"");
        assertThat(body("costs $${5} or ${'\\'}'}")).isEqualTo("\"costs ${5} or '}\"");
    }

    @Test
    void constantsPassAsTheyAre() throws Exception {
        assertThat(body(List.of(1L, 2.5, true, "text"))).isEqualTo("[1,2.5,true,\"text\"]");
    }

    @Test
    void aValueIsWrittenForWhereItStandsAndWhatIsAroundItIsNot() throws Exception {
        Envelope envelope = fill(Map.of("path", "/rows/${data.name}", "query", Map.of("who", "${data.n}")))
                .envelope();

        assertThat(envelope.text("path")).isEqualTo("/rows/<row 4/B>");
        assertThat(envelope.named("query")).containsExactly(Map.entry("who", "7"));
        assertThat(envelope.named("headers")).isEmpty();
    }

    private static List<String> misfits(Map<String, Object> source) {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), FIELDS);
        compiler.compile(source);
        return compiler.misfits().stream()
                .map(misfit -> misfit.pointer() + ": " + misfit.what())
                .toList();
    }

    @Test
    void whatTheOutletsKindDoesNotHaveIsToldWithTheNearestThatItHas() {
        assertThat(misfits(Map.of("paht", "/x")))
                .containsExactly("/paht: `paht` is no part of a shape for this outlet; did you mean `path`?");
        assertThat(misfits(Map.of("topic", "a/b")))
                .containsExactly("/topic: `topic` is no part of a shape for this outlet;"
                        + " there are body, contentType, csv, format, headers, path, query");
    }

    @Test
    void anObjectWhereATextIsWantedIsTold() {
        assertThat(misfits(Map.of("path", List.of("a"))))
                .containsExactly("/path: a text is wanted here, not an object or a list");
        assertThat(misfits(Map.of("query", "a=b"))).containsExactly("/query: names with values are wanted here");
        assertThat(misfits(Map.of("query", Map.of("a", List.of(1L)))))
                .containsExactly("/query/a: a text is wanted here, not an object or a list");
    }

    private static String failure(Map<String, Object> source) {
        try {
            return fill(source).envelope().text("path");
        } catch (ShapeFailure e) {
            return e.getMessage();
        } catch (Exception e) {
            throw new AssertionError(e);
        }
    }

    @Test
    void aBodyThatMakesMuchOfLittleIsRefused() {
        Map<String, Object> each = Map.of("$each", "data.list", "$give", "${'x'.replace('x', data.name)}");
        Object nested = each;
        for (int i = 0; i < 25; i++) {
            nested = Map.of("$each", "data.list", "$give", nested);
        }
        Map<String, Object> body = Map.of("a", nested);

        assertThat(failure(Map.of("body", body))).contains("it would have more than 100000 parts");
    }

    @Test
    void withoutABodyTheDataAreSentAsRead() throws Exception {
        assertThat(new String(fill(Map.of()).body(), StandardCharsets.UTF_8))
                .isEqualTo(
                        "{\"t\":21.5,\"n\":7,\"name\":\"row 4/B\",\"on\":true,\"none\":null,\"list\":[1,2.5],\"line\":\"a\\r\\nb\"}");
    }

    @Test
    void aMissingFieldIsNamedWithItsPlace() {
        assertThatThrownBy(() -> fill(Map.of("body", Map.of("items", List.of(Map.of("w", "${data.wetBulb}"))))))
                .isInstanceOf(ShapeFailure.class)
                .hasMessage("the shape could not be filled at body.items[0].w: data.wetBulb is not there");
    }

    @Test
    void aNumberNoFormatCanCarryIsRefused() {
        assertThatThrownBy(() -> fill(Map.of("body", "${data.t / 0.0}")))
                .isInstanceOf(ShapeFailure.class)
                .hasMessageContaining("Infinity");
    }

    @Test
    void allMistakesOfAShapeAreFoundAtOnce() {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), FIELDS);

        compiler.compile(Map.of("path", "/${", "body", Map.of("a/b", "${data.}")));

        assertThat(compiler.misfits())
                .extracting(ShapeCompiler.Misfit::pointer)
                .containsExactlyInAnyOrder("/path", "/body/a~1b");
    }
}
