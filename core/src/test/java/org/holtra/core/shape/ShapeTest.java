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

    private static final String DATA =
            "{\"t\":21.50,\"n\":7,\"name\":\"row 4/B\",\"on\":true,\"none\":null,\"list\":[1,2.5],\"line\":\"a\\r\\nb\"}";

    private static Scope scope() throws Exception {
        return new Scope(
                new JsonFormat().parse(DATA.getBytes(StandardCharsets.UTF_8)), Map.of(), Map.of("key", "cs-07"));
    }

    private static Content fill(Map<String, Object> source) throws Exception {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler());
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
    void pathAndQueryAreEncodedForWhereTheyStand() throws Exception {
        Content content = fill(Map.of("path", "/rows/${data.name}", "query", Map.of("who", "${data.name}&x=1")));

        assertThat(content.path()).isEqualTo("/rows/row%204%2FB");
        assertThat(content.query()).containsExactly(Map.entry("who", "row%204%2FB%26x%3D1"));
    }

    private static String failure(Map<String, Object> source) {
        try {
            return fill(source).path();
        } catch (ShapeFailure e) {
            return e.getMessage();
        } catch (Exception e) {
            throw new AssertionError(e);
        }
    }

    @Test
    void aDeviceWhoseKeyIsTwoDotsLeadsNowhereElse() {
        assertThat(failure(Map.of("path", "/rows/${'..'}/secrets"))).contains("a segment of the path would be `..`");
        assertThat(failure(Map.of("path", "/rows/${'.'}"))).contains("a segment of the path would be `.`");
        assertThat(failure(Map.of("path", "/rows/%2E%2e/x"))).contains("which leads to another address");
        assertThat(failure(Map.of("path", "/rows/${'a..b'}"))).isEqualTo("/rows/a..b");
    }

    @Test
    void aNameThatIsNoneOfAHeaderIsRefused() {
        assertThat(failure(Map.of("headers", Map.of("X-${'a b'}", "1")))).contains("is no name of a header");
        assertThat(failure(Map.of("headers", Map.of("X${'\\r\\nY'}", "1")))).contains("is no name of a header");
        assertThat(failure(Map.of("headers", Map.of("${'Host'}", "1")))).contains("is set by the connection itself");
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
    void aHeaderCannotCarryALineBreak() throws Exception {
        assertThat(fill(Map.of("headers", Map.of("X-Line", "${data.line}"))).headers())
                .containsEntry("X-Line", "a  b");
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
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler());

        compiler.compile(Map.of("path", "/${", "body", Map.of("a/b", "${data.}")));

        assertThat(compiler.misfits())
                .extracting(ShapeCompiler.Misfit::pointer)
                .containsExactlyInAnyOrder("/path", "/body/a~1b");
    }
}
