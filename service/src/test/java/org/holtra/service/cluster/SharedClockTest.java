package org.holtra.service.cluster;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.Test;

class SharedClockTest {

    private final SharedClock clock = new SharedClock(Instant::now);

    private Duration apart(Instant wanted) {
        return Duration.between(clock.instant(), wanted).abs();
    }

    @Test
    void itTellsTheDatabasesTimeOnceItWasAsked() {
        Instant database = Instant.now().plusSeconds(3_600);

        clock.set(database, System.nanoTime(), System.nanoTime());

        assertThat(apart(database)).isLessThan(Duration.ofSeconds(5));
    }

    @Test
    void aDifferenceThatTheWayToTheDatabaseExplainsChangesNothing() {
        Instant before = clock.instant();
        long now = System.nanoTime();

        clock.set(before.plusSeconds(40), now - 100_000_000_000L, now);

        assertThat(apart(before)).isLessThan(Duration.ofSeconds(20));
    }

    @Test
    void theAnswerIsTakenForTheMiddleOfItsWay() {
        Instant database = Instant.now().plusSeconds(1_000);
        long now = System.nanoTime();

        clock.set(database, now - 200_000_000_000L, now);

        assertThat(apart(database.plusSeconds(100))).isLessThan(Duration.ofSeconds(20));
    }
}
