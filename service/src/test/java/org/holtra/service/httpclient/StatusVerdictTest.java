package org.holtra.service.httpclient;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import org.holtra.core.delivery.Verdict;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class StatusVerdictTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:20:00Z");

    @ParameterizedTest
    @CsvSource({
        "200, delivered", "201, delivered", "204, delivered", "301, refused", "400, refused", "401, outlet blocked",
        "403, device held", "404, refused", "408, try later", "409, refused", "413, refused", "422, refused",
        "425, try later", "429, try later", "500, try later", "502, try later", "503, try later", "599, try later"
    })
    void eachStatusHasItsVerdict(int status, String word) {
        assertThat(StatusVerdict.of(status, null, 1, NOW).word()).isEqualTo(word);
    }

    @Test
    void aConflictMeansDeliveredOnlyOnARepeatedAttempt() {
        assertThat(StatusVerdict.of(409, null, 2, NOW)).isInstanceOf(Verdict.Delivered.class);
    }

    @ParameterizedTest
    @CsvSource({
        "120, 2026-04-12T03:22:00Z",
        "0, 2026-04-12T03:20:00Z",
        "-5, 2026-04-12T03:20:00Z",
        "99999999999, 2026-04-13T03:20:00Z",
        "'Sun, 12 Apr 2026 03:25:00 GMT', 2026-04-12T03:25:00Z",
        "'Fri, 12 Apr 2126 03:25:00 GMT', 2026-04-13T03:20:00Z",
        "soon,"
    })
    void retryAfterIsReadInBothFormsAndBounded(String header, Instant time) {
        assertThat(StatusVerdict.notBefore(header, NOW)).isEqualTo(time);
    }
}
