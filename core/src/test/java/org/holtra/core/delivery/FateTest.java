package org.holtra.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.Random;
import java.util.random.RandomGenerator;
import org.junit.jupiter.api.Test;

class FateTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:00:00Z");
    private static final RetrySchedule SCHEDULE =
            new RetrySchedule(Duration.ofSeconds(1), 3, Duration.ofSeconds(20), Duration.ofHours(1));

    /** Always the largest number allowed, so that delays are their bounds. */
    private static final RandomGenerator LARGEST = new RandomGenerator() {
        @Override
        public long nextLong() {
            return Long.MAX_VALUE;
        }

        @Override
        public long nextLong(long bound) {
            return bound - 1;
        }
    };

    private static Fate fate(Verdict verdict, int attempts, Instant patience) {
        return Fate.of(verdict, attempts, SCHEDULE, NOW.plusSeconds(60), patience, NOW, LARGEST);
    }

    @Test
    void delaysGrowByTheFactorUpToTheLongest() {
        assertThat(SCHEDULE.delay(1, LARGEST)).isEqualTo(Duration.ofSeconds(1));
        assertThat(SCHEDULE.delay(2, LARGEST)).isEqualTo(Duration.ofSeconds(3));
        assertThat(SCHEDULE.delay(3, LARGEST)).isEqualTo(Duration.ofSeconds(9));
        assertThat(SCHEDULE.delay(4, LARGEST)).isEqualTo(Duration.ofSeconds(20));
        assertThat(SCHEDULE.delay(4000, LARGEST)).isEqualTo(Duration.ofSeconds(20));
    }

    @Test
    void jitterIsFull() {
        Random random = new Random(7);
        var delays = java.util.stream.Stream.generate(
                        () -> SCHEDULE.delay(4, random).toMillis())
                .limit(2000)
                .toList();

        assertThat(delays).allMatch(delay -> delay >= 0 && delay <= 20_000);
        assertThat(delays.stream().mapToLong(delay -> delay).average().orElseThrow())
                .isBetween(9_000.0, 11_000.0);
    }

    @Test
    void theDestinationsWordOnWhenToComeBackIsHonoured() {
        Verdict verdict = new Verdict.TryLater("429", NOW.plusSeconds(100), false, false);

        assertThat(fate(verdict, 1, NOW)).isEqualTo(new Fate.Waiting("429", NOW.plusSeconds(100)));
    }

    @Test
    void aDeliveryIsGivenUpOnceItsPatienceIsUsed() {
        Verdict verdict = new Verdict.TryLater("500", null, true, false);

        assertThat(fate(verdict, 2, NOW.plusSeconds(59))).isInstanceOf(Fate.Waiting.class);
        assertThat(fate(verdict, 2, NOW.plusSeconds(60))).isEqualTo(new Fate.Dead("given up after 2 attempts: 500"));
    }

    @Test
    void aBlockedOutletNeverKillsADelivery() {
        assertThat(fate(new Verdict.OutletBlocked("401"), 9, NOW.plusSeconds(999)))
                .isEqualTo(new Fate.Waiting("401", NOW));
    }

    @Test
    void aRefusalIsFinal() {
        assertThat(fate(new Verdict.Refused("422"), 1, NOW)).isEqualTo(new Fate.Dead("422"));
        assertThat(fate(new Verdict.Delivered(), 1, NOW)).isEqualTo(new Fate.Delivered());
    }
}
