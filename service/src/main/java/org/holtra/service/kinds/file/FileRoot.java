package org.holtra.service.kinds.file;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;

/** The folder beneath which inlets and outlets may use files; the rest of the machine's files are none of theirs. */
record FileRoot(Path folder) {

    /**
     * A folder beneath it.
     *
     * @throws IllegalArgumentException if it lies elsewhere, also by way of a symbolic link, with a sentence for people
     */
    Path folder(String name) {
        if (folder == null) {
            throw new IllegalArgumentException(
                    "no folder is set for files; HOLTRA_FILES names the one beneath which inlets and outlets may use files");
        }
        Path root = folder.toAbsolutePath().normalize();
        Path wanted = root.resolve(name).normalize();
        if (!wanted.startsWith(root)) {
            throw new IllegalArgumentException("the folder `" + name + "` does not lie beneath that of HOLTRA_FILES");
        }
        try {
            if (Files.exists(wanted) && !wanted.toRealPath().startsWith(root.toRealPath())) {
                throw new IllegalArgumentException(
                        "the folder `" + name + "` leads out of that of HOLTRA_FILES by a symbolic link");
            }
        } catch (IOException e) {
            throw new UncheckedIOException("the folder `" + name + "` cannot be looked at", e);
        }
        return wanted;
    }
}
