package org.holtra.service.kinds.timeseries;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class LineFormatTest {

    private static final String TIME = ",\"time\":\"2026-05-01T10:00:00.000000001Z\"}";
    private static final String NANOS = " 1777629600000000001";

    private final LineFormat format = new LineFormat("climate", Set.of("count"));

    private String line(String json) {
        return format.lines(json.getBytes(StandardCharsets.UTF_8));
    }

    @Test
    void tagsAreSortedAndFieldsHaveTheirTypes() {
        assertThat(line("{\"measurement\":\"soil\",\"tags\":{\"site\":\"north\",\"a\":5},"
                        + "\"fields\":{\"t\":4.5,\"n\":5.0,\"count\":7.0,\"open\":true,\"note\":\"dry\",\"none\":null}"
                        + TIME))
                .isEqualTo("soil,a=5,site=north t=4.5,n=5,count=7i,open=true,note=\"dry\"" + NANOS);
    }

    @Test
    void namesTagsAndTextsAreEscapedForWhereTheyStand() {
        assertThat(line(
                        "{\"measurement\":\"a, b=c\",\"tags\":{\"k ,=\":\"v ,=\"},\"fields\":{\"f ,=\":\"say \\\"x\\\" \\\\ y, z\"}"
                                + TIME))
                .isEqualTo("a\\,\\ b=c,k\\ \\,\\==v\\ \\,\\= f\\ \\,\\==\"say \\\"x\\\" \\\\ y, z\"" + NANOS);
    }

    @Test
    void aLineBreakInATagBeginsNoOtherPoint() {
        assertThat(line("{\"tags\":{\"k\":\"a\\nb\"},\"fields\":{\"f\":1}" + TIME))
                .isEqualTo("climate,k=a\\ b f=1" + NANOS);
    }

    @Test
    void aListMakesSeveralLines() {
        String one = "{\"fields\":{\"f\":1}" + TIME;

        assertThat(line("[" + one + "," + one + "]").lines()).hasSize(2);
    }

    @Test
    void emptyTagsAreLeftOut() {
        assertThat(line("{\"tags\":{\"k\":\"\",\"n\":null},\"fields\":{\"f\":1}" + TIME))
                .isEqualTo("climate f=1" + NANOS);
    }

    @ParameterizedTest
    @CsvSource({
        "1777629600000, 1777629600000000000",
        "'\"2026-05-01T12:00:00+02:00\"', 1777629600000000000",
        "'\"1969-12-31T23:59:59.5Z\"', -500000000",
        "'\"9999-12-31T23:59:59Z\"', 253402300799000000000"
    })
    void timesAreInNanoseconds(String time, String nanos) {
        assertThat(line("{\"fields\":{\"f\":1},\"time\":" + time + "}")).endsWith(" " + nanos);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "5|has to make an object",
                "[]|empty list",
                "{\"fields\":{},\"time\":1}|no field that has a value",
                "{\"fields\":{\"f\":1}}|makes no time",
                "{\"fields\":{\"f\":1},\"time\":\"now\"}|`now` is no time",
                "{\"fields\":{\"count\":1.5},\"time\":1}|is to be a whole number",
                "{\"tags\":{\"k\":\"a\\\\\"},\"fields\":{\"f\":1},\"time\":1}|ends with a backslash",
                "x=1|makes no JSON"
            })
    void whatCannotBeWrittenIsRefusedWithTheReason(String body, String reason) {
        assertThatThrownBy(() -> line(body))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining(reason);
    }

    @Test
    void aMeasurementIsNeeded() {
        LineFormat without = new LineFormat(null, Set.of());
        assertThatThrownBy(() -> without.lines(("{\"fields\":{\"f\":1}" + TIME).getBytes(StandardCharsets.UTF_8)))
                .hasMessageContaining("names a measurement");
    }
}
