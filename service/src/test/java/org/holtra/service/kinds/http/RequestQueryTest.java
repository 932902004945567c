package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class RequestQueryTest {

    @Test
    void valuesAreDecodedAndRepeatedNamesJoined() {
        assertThat(RequestQuery.fields("row=7&row=8&at=2026-04-12T03%3A20&flag&empty=&&a+b=c%20d"))
                .containsExactlyInAnyOrderEntriesOf(
                        Map.of("row", "7, 8", "at", "2026-04-12T03:20", "flag", "", "empty", "", "a b", "c d"));
    }

    @Test
    void aPercentSignThatEncodesNothingStaysAsItWasSent() {
        assertThat(RequestQuery.fields("humidity=40%&bad=%zz"))
                .containsOnly(Map.entry("humidity", "40%"), Map.entry("bad", "%zz"));
    }

    @Test
    void anEmptyQueryHasNoFields() {
        assertThat(RequestQuery.fields("")).isEmpty();
    }
}
