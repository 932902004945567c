package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.Test;

class PaceTest {

    private static final Instant NOW = Instant.parse("2026-03-30T23:59:00Z");

    @Test
    void grantsFollowOneAnotherAtThePaceWhoeverAsks() {
        Pace pace = new Pace(10.0, null, null);

        Pace.Grant first = pace.grant(Pace.Used.nothing(NOW), NOW);
        Pace.Grant second = pace.grant(first.used(), NOW);
        Pace.Grant later = pace.grant(second.used(), NOW.plusSeconds(60));

        assertThat(first.messages()).isEqualTo(5);
        assertThat(first.first()).isEqualTo(NOW);
        assertThat(first.each()).isEqualTo(Duration.ofMillis(100));
        assertThat(second.first()).isEqualTo(NOW.plusMillis(500));
        assertThat(later.first()).isEqualTo(NOW.plusSeconds(60));
    }

    @Test
    void aDaysQuotaIsGrantedToItsLastMessageAndNoFurtherUntilTheNextDay() {
        Pace pace = new Pace(null, 25L, null);
        Pace.Used used = Pace.Used.nothing(NOW);

        Pace.Grant most = pace.grant(used, NOW);
        Pace.Grant rest = pace.grant(most.used(), NOW);
        Pace.Grant none = pace.grant(rest.used(), NOW);

        assertThat(most.messages() + rest.messages()).isEqualTo(25);
        assertThat(none.messages()).isZero();
        assertThat(none.until()).isEqualTo(Instant.parse("2026-03-31T00:00:00Z"));
        assertThat(none.why()).isEqualTo("the day's quota of 25 messages is used up");
        assertThat(pace.grant(none.used(), NOW.plusSeconds(61)).messages()).isPositive();
    }

    @Test
    void aMonthsQuotaLastsUntilTheMonthEnds() {
        Pace pace = new Pace(null, null, 5L);
        Pace.Grant all = pace.grant(Pace.Used.nothing(NOW), NOW);

        Pace.Grant tomorrow = pace.grant(all.used(), NOW.plusSeconds(61));

        assertThat(all.messages()).isEqualTo(5);
        assertThat(tomorrow.messages()).isZero();
        assertThat(tomorrow.until()).isEqualTo(Instant.parse("2026-04-01T00:00:00Z"));
        assertThat(pace.grant(tomorrow.used(), tomorrow.until()).messages()).isEqualTo(5);
    }
}
