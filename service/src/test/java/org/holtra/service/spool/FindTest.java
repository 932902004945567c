package org.holtra.service.spool;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.service.settings.HoltraSettings;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class FindTest {

    @TempDir
    private Path folder;

    private final MessageIds ids = new MessageIds(Instant::now, new Random(1));

    private Spool spool() throws Exception {
        return new Spool(
                new HoltraSettings(null, 64, null, Duration.ofMillis(500), 128, "one", folder, 64, 90, 30, 1_000_000));
    }

    private Arrival arrival(int number) {
        byte[] body = ("{\"n\":" + number + "}").repeat(40).getBytes(StandardCharsets.UTF_8);
        return new Arrival(ids.next(), "in", "127.0.0.1", "/in/in", Map.of(), "application/json", body);
    }

    @Test
    void oneMessageIsFoundAmongManyAlsoAfterARestartAndNotOnceItIsDrained() throws Exception {
        List<Arrival> all = new ArrayList<>();
        for (int number = 0; number < 2_000; number++) {
            all.add(arrival(number));
        }
        // Ids come nearly in order, as from many senders at once.
        List<Arrival> came = new ArrayList<>(all);
        for (int i = 0; i + 7 < came.size(); i += 9) {
            came.set(i, all.get(i + 7));
            came.set(i + 7, all.get(i));
        }
        try (Spool spool = spool()) {
            for (Arrival one : came) {
                spool.keep(one);
            }
            spool.keep(arrival(2_000)).join();
            assertFound(spool, came, 0);
        }
        try (Spool spool = spool()) {
            assertFound(spool, came, 0);
            spool.drained(1_500);
            assertFound(spool, came, 1_500);
            assertThat(spool.find(ids.next())).isEmpty();
        }
    }

    private static void assertFound(Spool spool, List<Arrival> came, int from) {
        for (int i = from; i < came.size(); i += 61) {
            Arrival wanted = came.get(i);
            assertThat(spool.find(wanted.id())).get().extracting(Arrival::id).isEqualTo(wanted.id());
        }
    }
}
