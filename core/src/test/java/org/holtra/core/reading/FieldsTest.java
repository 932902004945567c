package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.reading.content.JsonFormat;
import org.holtra.core.reading.content.UnreadableContent;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class FieldsTest {

    private static Map<String, Object> flat(String json) throws UnreadableContent {
        return Fields.flat(new JsonFormat().parse(json.getBytes(java.nio.charset.StandardCharsets.UTF_8)));
    }

    @Test
    void joinsNamesOfFieldsInsideOthersAndLeavesOutWhatIsNoValue() throws Exception {
        assertThat(flat("{\"a\":{\"b\":1,\"c\":{\"d\":\"x\"}},\"e\":true,\"f\":[1],\"g\":null}"))
                .isEqualTo(Map.of("a.b", 1.0, "a.c.d", "x", "e", true));
        assertThat(flat("5")).isEmpty();
    }

    @Test
    void leavesOutWhatTheStoreCannotHold() throws Exception {
        assertThat(flat("{\"a\":\"\\ud800\",\"b\":\"x\\u0000\",\"c\\u0000\":1,\"d\":\"\\ud83c\\udf4e\"}"))
                .isEqualTo(Map.of("d", "\ud83c\udf4e"));
        assertThat(Fields.flat(Map.of("a", Double.NaN, "b", List.of(1)))).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {"latitude":12.5,"longitude":-41.2}            | 12.5
            {"t":1,"gps":{"lat":12.5,"lng":-41.2}}         | 12.5
            {"lat":12.5,"gps":{"lon":-41.2}}               |
            {"lat":99,"lon":-41.2}                         |
            {"platform":1,"long":3}                        |
            """)
    void findsThePositionADeviceTells(String json, Double latitude) throws Exception {
        assertThat(Fields.position(flat(json)).get("latitude")).isEqualTo(latitude);
    }

    @Test
    void whatIsFlatBecomesNestedAgain() {
        Map<String, Object> data = Map.of("air", 4.0, "wind", Map.of("speed", 3.0, "gust", 7.0));

        assertThat(Fields.nested(Fields.flat(data))).isEqualTo(data);
    }
}
