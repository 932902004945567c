package org.holtra.service.balance;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class AcknowledgementLogTest {

    @TempDir
    private Path folder;

    private final MessageIds ids = new MessageIds(() -> Instant.parse("2026-04-12T03:20:00Z"), new Random(1));

    private List<MessageId> noted(AcknowledgementLog log, int count) {
        List<MessageId> noted = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            noted.add(ids.next());
            log.add("inlet-" + i % 3, noted.getLast(), i % 5 == 0);
        }
        return noted;
    }

    private static List<MessageId> idsOf(List<AcknowledgementLog.Entry> entries) {
        return entries.stream().map(AcknowledgementLog.Entry::id).toList();
    }

    @Test
    void whatAProcessNotedIsThereForTheNextHoweverItEnded() {
        List<MessageId> noted = noted(new AcknowledgementLog(folder), 1_000);

        // The first one was never closed: its process was killed.
        AcknowledgementLog next = new AcknowledgementLog(folder);
        noted.addAll(noted(next, 10));

        List<AcknowledgementLog.Entry> first = next.from(0, 400);
        assertThat(idsOf(first)).isEqualTo(noted.subList(0, 400));
        assertThat(first.get(4).inlet()).isEqualTo("inlet-1");
        assertThat(first.get(4).ignored()).isFalse();
        assertThat(first.get(5).inlet()).isEqualTo("inlet-2");
        assertThat(first.get(5).ignored()).isTrue();
        assertThat(idsOf(next.from(first.getLast().next(), 10_000))).isEqualTo(noted.subList(400, 1_010));
    }

    @Test
    void filesThatTheDatabaseHasAreDeletedAndPositionsCountOn() throws IOException {
        AcknowledgementLog log = new AcknowledgementLog(folder);
        List<MessageId> noted = noted(log, 400_000);
        long position = log.from(0, 300_000).getLast().next();

        log.forget(position);

        assertThat(idsOf(log.from(position, 1_000_000))).isEqualTo(noted.subList(300_000, 400_000));
        assertThat(idsOf(new AcknowledgementLog(folder).from(position, 1_000_000)))
                .isEqualTo(noted.subList(300_000, 400_000));
        try (var files = Files.list(folder)) {
            assertThat(files.filter(file -> file.toString().endsWith(".acks")).count())
                    .isLessThanOrEqualTo(3);
        }
    }

    @Test
    void aLogInMemoryForgetsWithItsProcessOnly() {
        AcknowledgementLog log = new AcknowledgementLog(null);
        List<MessageId> noted = noted(log, 300_000);

        assertThat(idsOf(log.from(0, 1_000_000))).isEqualTo(noted);
    }
}
