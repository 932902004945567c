package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class FileRootTest {

    @TempDir
    private Path machine;

    @Test
    void aFolderLiesBeneathIt() {
        assertThat(new FileRoot(machine).folder("in/meters")).isEqualTo(machine.resolve("in/meters"));
    }

    @Test
    void nothingElseOfTheMachineCanBeNamed() throws IOException {
        Path files = Files.createDirectory(machine.resolve("files"));
        Files.createSymbolicLink(files.resolve("out"), machine);
        FileRoot root = new FileRoot(files);

        assertThatThrownBy(() -> root.folder("../secrets")).hasMessageContaining("does not lie beneath");
        assertThatThrownBy(() -> root.folder("/etc")).hasMessageContaining("does not lie beneath");
        assertThatThrownBy(() -> root.folder("out")).hasMessageContaining("leads out of that of HOLTRA_FILES");
    }

    @Test
    void withoutItThereAreNoFiles() {
        assertThatThrownBy(() -> new FileRoot(null).folder("in")).hasMessageContaining("HOLTRA_FILES names the one");
    }
}
