package org.holtra.service.httpclient;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.api.Test;

class BatchBodyTest {

    private static final String JSON = "application/json";

    private static List<byte[]> bodies(String... texts) {
        return List.of(texts).stream().map(String::getBytes).toList();
    }

    @Test
    void aListIsAJsonArrayOfTheContents() {
        assertThat(BatchBody.LIST.join(bodies("{\"a\":1}", "{\"b\":2}")))
                .asString()
                .isEqualTo("[{\"a\":1},{\"b\":2}]");
        assertThat(BatchBody.LIST.contentType(JSON)).isEqualTo(JSON);
    }

    @Test
    void linesStandOneAContent() {
        assertThat(BatchBody.LINES.join(bodies("{\"a\":1}", "{\"b\":2}")))
                .asString()
                .isEqualTo("{\"a\":1}\n{\"b\":2}\n");
        assertThat(BatchBody.LINES.join(bodies("a,1\r\n", "b,2\n"))).asString().isEqualTo("a,1\nb,2\n");
        assertThat(BatchBody.LINES.contentType(JSON)).isEqualTo("application/x-ndjson");
        assertThat(BatchBody.LINES.contentType("text/csv")).isEqualTo("text/csv");
    }

    @Test
    void whatIsNoJsonCannotStandInAListAndABreakNotInALine() {
        assertThat(BatchBody.LIST.whyNot("text/plain", new byte[0]))
                .contains("its outlet sends JSON arrays, and the lane's shape makes text/plain");
        assertThat(BatchBody.LIST.whyNot("application/vnd.x+json", "{}".getBytes()))
                .isEmpty();
        assertThat(BatchBody.LINES.whyNot(JSON, "{\n}".getBytes())).isPresent();
        assertThat(BatchBody.LINES.whyNot(JSON, "{}".getBytes())).isEmpty();
        assertThat(BatchBody.LINES.whyNot("text/csv", "a,1\r\n".getBytes())).isEmpty();
    }

    @Test
    void theUsualBodyIsAList() {
        assertThat(BatchBody.of(null)).isEqualTo(BatchBody.LIST);
        assertThat(BatchBody.of("lines")).isEqualTo(BatchBody.LINES);
        assertThat(BatchBody.words()).containsExactly("list", "lines");
    }
}
