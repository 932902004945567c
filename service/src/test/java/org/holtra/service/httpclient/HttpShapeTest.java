package org.holtra.service.httpclient;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.Scope;
import org.holtra.core.shape.Envelope;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeCompiler;
import org.holtra.core.shape.ShapeFailure;
import org.junit.jupiter.api.Test;

class HttpShapeTest {

    private static final Scope SCOPE =
            new Scope(Map.of("name", "row 4/B", "line", "a\r\nb"), Map.of(), Map.of("key", "cs-07"));

    private static Envelope fill(Map<String, Object> source) throws ShapeFailure {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), HttpShape.FIELDS);
        Shape shape = compiler.compile(source);
        assertThat(compiler.misfits()).isEmpty();
        return shape.fill(SCOPE).envelope();
    }

    private static String failure(Map<String, Object> source) {
        try {
            return fill(source).text("path");
        } catch (ShapeFailure e) {
            return e.getMessage();
        }
    }

    @Test
    void pathAndQueryAreEncodedForWhereTheyStand() throws ShapeFailure {
        Envelope envelope = fill(Map.of("path", "/rows/${data.name}", "query", Map.of("who", "${data.name}&x=1")));

        assertThat(envelope.text("path")).isEqualTo("/rows/row%204%2FB");
        assertThat(envelope.named("query")).isEqualTo(List.of(Map.entry("who", "row%204%2FB%26x%3D1")));
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
    void aHeaderCannotCarryALineBreak() throws ShapeFailure {
        assertThat(fill(Map.of("headers", Map.of("X-Line", "${data.line}"))).named("headers"))
                .containsExactly(Map.entry("X-Line", "a  b"));
    }
}
