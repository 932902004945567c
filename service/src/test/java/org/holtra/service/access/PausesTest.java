package org.holtra.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.Test;

class PausesTest {

    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.parse("2026-04-12T03:20:00Z"));
    private final Pauses pauses = new Pauses(now::get, 3, Duration.ofSeconds(20));

    private void tries(int count) {
        for (int i = 0; i < count; i++) {
            pauses.tries("a");
        }
    }

    private void pass(Duration time) {
        now.set(now.get().plus(time));
    }

    @Test
    void thePauseDoublesWithEachTryAfterTheFreeOnesUpToTheLongest() {
        tries(2);
        assertThat(pauses.left("a")).isZero();
        tries(1);
        assertThat(pauses.left("a")).isEqualTo(Duration.ofSeconds(1));
        tries(1);
        assertThat(pauses.left("a")).isEqualTo(Duration.ofSeconds(2));
        tries(1);
        assertThat(pauses.left("a")).isEqualTo(Duration.ofSeconds(4));
        tries(100);
        assertThat(pauses.left("a")).isEqualTo(Duration.ofSeconds(20));
        assertThat(pauses.left("b")).isZero();
    }

    @Test
    void aPauseEndsAndTheNextTryInVainMakesALongerOne() {
        tries(3);
        pass(Duration.ofSeconds(1));
        assertThat(pauses.left("a")).isZero();
        tries(1);
        assertThat(pauses.left("a")).isEqualTo(Duration.ofSeconds(2));
    }

    @Test
    void whatWentWellOrWasAnHourAgoIsForgotten() {
        tries(6);
        pauses.forget("a");
        assertThat(pauses.left("a")).isZero();

        tries(6);
        pass(Duration.ofMinutes(61));
        assertThat(pauses.left("a")).isZero();
        tries(1);
        assertThat(pauses.left("a")).isZero();
    }

    @Test
    void unknownNamesCannotFillTheMemory() {
        tries(9);
        for (int i = 0; i < 30_000; i++) {
            pauses.tries("name " + i);
        }
        assertThat(pauses.left("a")).isZero();
        assertThat(pauses.left("name 29999")).isZero();
    }
}
