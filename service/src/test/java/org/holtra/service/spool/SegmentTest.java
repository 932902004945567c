package org.holtra.service.spool;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class SegmentTest {

    @TempDir
    private Path folder;

    private static byte[] bytes(String text) {
        return text.getBytes();
    }

    private Path written(String... records) throws IOException {
        try (Segment segment = Segment.make(folder, 1)) {
            for (String record : records) {
                segment.append(List.of(bytes(record)));
            }
        }
        return Segment.in(folder).getFirst();
    }

    @Test
    void whatWasWrittenIsReadInItsOrder() throws IOException {
        Path file = written("one", "", "three");

        try (Segment again = Segment.open(file)) {
            assertThat(again.from(0)).containsExactly(bytes("one"), bytes(""), bytes("three"));
            assertThat(again.from(again.read(0).next())).containsExactly(bytes(""), bytes("three"));
        }
    }

    @Test
    void aRecordThatWasCutOffIsLeftOutAndWrittenOver() throws IOException {
        Path file = written("one", "two");
        byte[] all = Files.readAllBytes(file);
        for (int cut = 1; cut < 11; cut++) {
            Files.write(file, java.util.Arrays.copyOf(all, all.length - cut));

            try (Segment again = Segment.open(file)) {
                assertThat(again.from(0)).containsExactly(bytes("one"));
                again.append(List.of(bytes("instead")));
                assertThat(again.from(0)).containsExactly(bytes("one"), bytes("instead"));
            }
        }
    }

    @Test
    void aRecordThatDoesNotAgreeWithItsSumIsLeftOut() throws IOException {
        Path file = written("one", "two");
        byte[] all = Files.readAllBytes(file);
        all[all.length - 1] ^= 1;
        Files.write(file, all, StandardOpenOption.TRUNCATE_EXISTING);

        try (Segment again = Segment.open(file)) {
            assertThat(again.from(0)).containsExactly(bytes("one"));
        }
    }
}
