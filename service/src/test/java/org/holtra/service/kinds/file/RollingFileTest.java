package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class RollingFileTest {

    private static final byte[] NONE = new byte[0];

    @TempDir
    private Path folder;

    private Instant now = Instant.parse("2026-04-12T03:00:00Z");

    private RollingFile file(long bytes) {
        return new RollingFile(folder, "r.csv", "one", new RollingFile.Bounds(bytes, Duration.ofHours(1)), () -> now);
    }

    private List<String> names() throws IOException {
        try (Stream<Path> files = Files.list(folder)) {
            return files.map(one -> one.getFileName().toString()).sorted().toList();
        }
    }

    private static byte[] bytes(String text) {
        return text.getBytes();
    }

    @Test
    void theNamesOfTheColumnsStandOnceAtItsHead() throws IOException {
        try (RollingFile file = file(1_000)) {
            Path at = file.append(bytes("id,t\n"), bytes("a,1\n"));
            file.append(bytes("id,t\n"), bytes("b,2\nc,3\n"));

            assertThat(at).hasContent("id,t\na,1\nb,2\nc,3\n");
        }
    }

    @Test
    void aFileThatIsLargeEnoughGetsItsFinalNameAndChangesNoMore() throws IOException {
        try (RollingFile file = file(4)) {
            file.append(NONE, bytes("a,1\n"));
            file.append(NONE, bytes("b,2\n"));
            file.append(NONE, bytes("c,3\n"));
        }

        assertThat(names())
                .containsExactly(".r.csv.one.open", "r-20260412T030000Z-one-2.csv", "r-20260412T030000Z-one.csv");
        assertThat(folder.resolve("r-20260412T030000Z-one.csv")).hasContent("a,1\n");
        assertThat(folder.resolve("r-20260412T030000Z-one-2.csv")).hasContent("b,2\n");
    }

    @Test
    void aFileThatIsOldEnoughGetsItsFinalNameThoughNothingIsWritten() throws IOException {
        try (RollingFile file = file(1_000)) {
            file.append(NONE, bytes("a,1\n"));
            file.rollIfDue();
            assertThat(names()).containsExactly(".r.csv.one.open");

            now = now.plus(Duration.ofHours(1));
            file.rollIfDue();
            assertThat(names()).containsExactly("r-20260412T040000Z-one.csv");
        }
    }

    @Test
    void otherColumnsBeginAnotherFile() throws IOException {
        try (RollingFile file = file(1_000)) {
            file.append(bytes("id,t\n"), bytes("a,1\n"));
            file.append(bytes("id,t,h\n"), bytes("b,2,3\n"));
        }

        assertThat(folder.resolve("r-20260412T030000Z-one.csv")).hasContent("id,t\na,1\n");
        assertThat(folder.resolve(".r.csv.one.open")).hasContent("id,t,h\nb,2,3\n");
    }

    @Test
    void aLineThatACrashCutOffIsTakenOutBeforeMoreIsAppended() throws IOException {
        Path at;
        try (RollingFile file = file(1_000)) {
            at = file.append(bytes("id,t\n"), bytes("a,1\n"));
        }
        Files.writeString(at, "b,2", StandardOpenOption.APPEND);

        try (RollingFile file = file(1_000)) {
            file.append(bytes("id,t\n"), bytes("c,3\n"));
        }

        assertThat(at).hasContent("id,t\na,1\nc,3\n");
    }
}
