package org.holtra.service.database;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;

class SparingTest {

    private final AtomicLong nanos = new AtomicLong();
    private final AtomicLong asked = new AtomicLong();

    private CachedValue<Long> taking(long millis) {
        return new CachedValue<>(
                () -> {
                    nanos.addAndGet(millis * 1_000_000);
                    return asked.incrementAndGet();
                },
                nanos::get);
    }

    @Test
    void whatIsQuickToAskIsAskedEachTime() {
        CachedValue<Long> quick = taking(5);

        assertThat(quick.get()).isEqualTo(1);
        assertThat(quick.get()).isEqualTo(2);
    }

    @Test
    void whatIsSlowToAskIsAskedAgainAfterTwentyTimesAsLong() {
        CachedValue<Long> slow = taking(500);

        assertThat(slow.get()).isEqualTo(1);
        nanos.addAndGet(9_400_000_000L);
        assertThat(slow.get()).isEqualTo(1);
        nanos.addAndGet(100_000_000L);
        assertThat(slow.get()).isEqualTo(2);
    }

    @Test
    void whatHungWhenItWasAskedIsAskedAgainWithinSeconds() {
        CachedValue<Long> hung = taking(60_000);

        assertThat(hung.get()).isEqualTo(1);
        nanos.addAndGet(10_000_000_000L);
        assertThat(hung.get()).isEqualTo(2);
    }
}
