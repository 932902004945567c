package org.holtra.service.httpclient;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.StepOutcome.Why;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class StatusOutcomeTest {

    @ParameterizedTest
    @CsvSource({
        "402, QUOTA",
        "403, RIGHT_MISSING",
        "409, NAME_TAKEN",
        "423, DISABLED",
        "422, OTHER",
        "301, OTHER",
        "507, QUOTA"
    })
    void aRefusalSaysWhy(int status, Why why) {
        assertThat(StatusOutcome.of(status, "", null))
                .isEqualTo(new StepOutcome.Refused(why, "the destination answered " + status));
    }

    @Test
    void otherAnswersAreDoneAbsentBlockedOrLater() {
        assertThat(StatusOutcome.of(204, "", null)).isInstanceOf(StepOutcome.Done.class);
        assertThat(StatusOutcome.of(410, "", null)).isInstanceOf(StepOutcome.Absent.class);
        assertThat(StatusOutcome.of(401, "", null)).isInstanceOf(StepOutcome.Blocked.class);
        assertThat(StatusOutcome.of(429, "", null)).isInstanceOf(StepOutcome.TryLater.class);
        assertThat(StatusOutcome.of(503, "", null)).isInstanceOf(StepOutcome.TryLater.class);
    }

    @Test
    void itIsToldInTheDestinationsOwnWords() {
        assertThat(StatusOutcome.of(403, Map.of("title", "Forbidden", "detail", "lacks devices:write"), null)
                        .reason())
                .isEqualTo("the destination answered 403: lacks devices:write");
        assertThat(StatusOutcome.of(403, Map.of("error", Map.of("message", "no")), null)
                        .reason())
                .isEqualTo("the destination answered 403: no");
        assertThat(StatusOutcome.of(500, "<html>oops</html>", null).reason()).isEqualTo("the destination answered 500");
        assertThat(StatusOutcome.of(400, "a\n  b", null).reason()).endsWith(": a b");
        assertThat(StatusOutcome.of(400, "x".repeat(400), null).reason()).hasSizeLessThan(350);
    }
}
