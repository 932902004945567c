package org.holtra.service.balance;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class TallyTest {

    private static final Instant AT = Instant.parse("2026-04-12T03:20:00Z");

    private final Tally tally = new Tally();

    @Test
    void whatIsCountedWhileCountsAreTakenOutIsNeitherLostNorTakenTwiceAtATime() throws Exception {
        int each = 300_000;
        List<Thread> threads = IntStream.range(0, 4)
                .mapToObj(number -> Thread.ofPlatform().start(() -> {
                    for (int i = 0; i < each; i++) {
                        tally.add(Tally.What.ACKNOWLEDGED, "inlet-" + i % 11, AT);
                    }
                }))
                .toList();
        List<Tally.Count> all = new ArrayList<>();
        while (threads.stream().anyMatch(Thread::isAlive)) {
            List<Tally.Count> drained = tally.drain();
            assertThat(drained.stream().map(Tally.Count::name)).doesNotHaveDuplicates();
            all.addAll(drained);
        }
        for (Thread thread : threads) {
            thread.join();
        }
        all.addAll(tally.drain());

        assertThat(all.stream().mapToLong(Tally.Count::count).sum()).isEqualTo(4L * each);
    }

    @Test
    void whatCouldNotBeWrittenIsAddedToWhatCameSince() {
        tally.add(Tally.What.DELIVERED, "lane", AT.plusSeconds(1));
        List<Tally.Count> drained = tally.drain();
        tally.add(Tally.What.DELIVERED, "lane", AT.plusSeconds(59));

        tally.restore(drained);

        assertThat(tally.drain()).containsExactly(new Tally.Count(AT, "DELIVERED", "lane", 2));
        assertThat(tally.drain()).isEmpty();
    }
}
