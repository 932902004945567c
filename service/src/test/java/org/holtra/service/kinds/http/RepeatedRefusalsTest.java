package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

class RepeatedRefusalsTest {

    private final ScheduledExecutorService later = Executors.newSingleThreadScheduledExecutor();
    private final AtomicLong nanos = new AtomicLong(5_000_000_000L);
    private final RepeatedRefusals refusals = new RepeatedRefusals(later, nanos::get);

    @AfterEach
    void end() {
        later.shutdownNow();
    }

    private long atOnce(String caller, int calls) {
        long atOnce = 0;
        for (int i = 0; i < calls; i++) {
            atOnce += refusals.isRepeated(caller) ? 0 : 1;
        }
        return atOnce;
    }

    @Test
    void aFewRefusalsASecondAreAnsweredAtOnceAndMoreWait() {
        assertThat(atOnce("10.0.0.1", 200)).isEqualTo(RepeatedRefusals.AT_ONCE);
        assertThat(atOnce("10.0.0.2", 10)).isEqualTo(10);
        nanos.addAndGet(1_000_000_000L);
        assertThat(atOnce("10.0.0.1", 10)).isEqualTo(10);
    }

    @Test
    void moreCallersThanAnybodyHasAreAFlood() {
        List<String> callers = new ArrayList<>();
        for (int i = 0; i < 10_001; i++) {
            callers.add("10.0." + i / 256 + "." + i % 256);
        }
        assertThat(callers.stream().filter(refusals::isRepeated)).hasSize(1);
    }

    @Test
    void answersWaitOnlyAsLongAsTheyAreFew() throws InterruptedException {
        CountDownLatch answered = new CountDownLatch(2_000);
        int waiting = 0;
        for (int i = 0; i < 2_500; i++) {
            waiting += refusals.wait(answered::countDown) ? 1 : 0;
        }
        assertThat(waiting).isEqualTo(2_000);
        assertThat(answered.await(60, TimeUnit.SECONDS)).isTrue();
    }
}
