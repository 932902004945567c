package org.holtra.service.database;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;

class CachedValueTest {

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
        CachedValue<Long> slow = taking(200);
        slow.get();

        assertThat(slow.get()).isEqualTo(2);
        nanos.addAndGet(3_700_000_000L);
        assertThat(slow.get()).isEqualTo(2);
        nanos.addAndGet(100_000_000L);
        assertThat(slow.get()).isEqualTo(3);
    }

    @Test
    void whatWasSlowToAskASingleTimeIsAskedAgainAtOnce() {
        CachedValue<Long> stumbling = new CachedValue<>(
                () -> {
                    nanos.addAndGet(asked.incrementAndGet() == 2 ? 3_000_000_000L : 5_000_000);
                    return asked.get();
                },
                nanos::get);

        assertThat(stumbling.get()).isEqualTo(1);
        assertThat(stumbling.get()).isEqualTo(2);
        assertThat(stumbling.get()).isEqualTo(3);
    }

    @Test
    void whatHungWhenItWasAskedIsAskedAgainWithinSeconds() {
        CachedValue<Long> hung = taking(60_000);
        hung.get();

        assertThat(hung.get()).isEqualTo(2);
        nanos.addAndGet(5_000_000_000L);
        assertThat(hung.get()).isEqualTo(3);
    }
}
