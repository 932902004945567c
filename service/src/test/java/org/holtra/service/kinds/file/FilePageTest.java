package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class FilePageTest {

    @TempDir
    private Path folder;

    private RandomAccessFile file(String content) throws IOException {
        return new RandomAccessFile(
                Files.writeString(folder.resolve("f"), content).toFile(), "r");
    }

    private static List<String> texts(FilePage page) {
        return page.bodies().stream().map(String::new).toList();
    }

    @Test
    void linesThatAreCompleteAreRead() throws Exception {
        try (RandomAccessFile file = file("{\"a\":1}\n\n{\"a\":2}\r\n{\"a\":")) {
            FilePage page = FilePage.lines(file, 0, null);

            assertThat(texts(page)).containsExactly("{\"a\":1}", "{\"a\":2}\r");
            assertThat(page.end()).isEqualTo(18);
            assertThat(FilePage.lines(file, page.end(), null).end()).isEqualTo(18);
        }
    }

    @Test
    void aPageHasSoManyLinesAndTheNextGoesOnBehindThem() throws Exception {
        try (RandomAccessFile file = file("x\n".repeat(FilePage.MOST_LINES + 3))) {
            FilePage first = FilePage.lines(file, 0, null);

            assertThat(first.bodies()).hasSize(FilePage.MOST_LINES);
            assertThat(FilePage.lines(file, first.end(), null).bodies()).hasSize(3);
        }
    }

    @Test
    void aRowOfCsvStandsBelowTheNamesOfItsColumns() throws Exception {
        try (RandomAccessFile file = file("id,t\na,1\nb,2\n")) {
            byte[] header = FilePage.header(file);

            assertThat(texts(FilePage.lines(file, header.length, header))).containsExactly("id,t\na,1", "id,t\nb,2");
        }
    }

    @Test
    void aLineLongerThanAnyMayBeIsTold() throws Exception {
        try (RandomAccessFile file = file("x".repeat(FilePage.LONGEST + 1) + "\n")) {
            assertThatThrownBy(() -> FilePage.lines(file, 0, null))
                    .isInstanceOf(FilePage.TooLong.class)
                    .hasMessage("the line that begins at byte 0 is longer than 1048576 bytes");
            assertThatThrownBy(() -> FilePage.whole(file)).isInstanceOf(FilePage.TooLong.class);
        }
    }
}
