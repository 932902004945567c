package org.holtra.service.spool;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Transport;
import org.holtra.service.settings.HoltraSettings;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class SpoolTest {

    @TempDir
    private Path folder;

    private final MessageIds ids = new MessageIds(Instant::now, new Random(1));

    private Spool spool() throws Exception {
        return new Spool(new HoltraSettings(
                null,
                64,
                null,
                Duration.ofMillis(500),
                128,
                "one",
                folder,
                64,
                90,
                30,
                1_000_000,
                "local",
                null,
                List.of(),
                null));
    }

    private Arrival arrival(int number) {
        byte[] body = ("{\"n\":" + number + "}").repeat(40).getBytes(StandardCharsets.UTF_8);
        return new Arrival(ids.next(), "in", Transport.of("127.0.0.1", "/in/in"), "application/json", body);
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

    /** As on a full disk: what is drained is drained, and the service must not go on as if it waited. */
    @Test
    void whatIsDrainedDoesNotWaitAlthoughThatCannotBeWrittenDown() throws Exception {
        try (Spool spool = spool()) {
            for (int number = 0; number < 9; number++) {
                spool.keep(arrival(number)).join();
            }
            Files.createDirectory(folder.resolve("position.new"));

            spool.drained(5);
            assertThat(spool.state().messages()).isEqualTo(4);
            spool.drained(4);
            assertThat(spool.isActive()).isFalse();

            spool.keep(arrival(9)).join();
            assertThat(spool.next(10)).hasSize(1);
        }
        Files.delete(folder.resolve("position.new"));
        try (Spool spool = spool()) {
            assertThat(spool.state().messages()).isEqualTo(1);
            spool.drained(1);
            assertThat(spool.isActive()).isFalse();
        }
    }

    @Test
    void ofLargeMessagesFewAreGivenAtATimeAndOneThatIsLargerStillAlone() throws Exception {
        try (Spool spool = spool()) {
            for (int megabytes : new int[] {3, 3, 3, 3, 12, 1}) {
                spool.keep(new Arrival(
                                ids.next(), "in", Transport.of("127.0.0.1", "/in/in"), null, new byte[megabytes << 20]))
                        .join();
            }
            List<Integer> given = new ArrayList<>();
            for (int size = spool.next(500).size();
                    size > 0;
                    size = spool.next(500).size()) {
                given.add(size);
                spool.drained(size);
            }

            assertThat(given).containsExactly(3, 2, 1);
            assertThat(spool.isActive()).isFalse();
        }
    }

    private static void assertFound(Spool spool, List<Arrival> came, int from) {
        for (int i = from; i < came.size(); i += 61) {
            Arrival wanted = came.get(i);
            assertThat(spool.find(wanted.id())).get().extracting(Arrival::id).isEqualTo(wanted.id());
        }
    }
}
