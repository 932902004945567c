package org.holtra.standins.cloud;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Collection;
import java.util.List;
import tools.jackson.databind.json.JsonMapper;

/** A file that the cloud's devices are kept in: a cloud does not forget its devices because it was started anew. */
public final class Registry {

    /**
     * What is in it.
     *
     * @param nextId of the next device: an id is not given twice
     */
    record Content(int nextId, List<CloudDevice> devices) {}

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int FIRST_ID = 1_000;

    private final Path file;

    /** @param file null to keep nothing */
    public Registry(Path file) {
        this.file = file;
    }

    Content read() {
        return file == null || Files.notExists(file)
                ? new Content(FIRST_ID, List.of())
                : JSON.readValue(file, Content.class);
    }

    /** @throws UncheckedIOException if it cannot be written */
    void write(int nextId, Collection<CloudDevice> devices) {
        if (file == null) {
            return;
        }
        Path fresh = file.resolveSibling(file.getFileName() + ".new");
        try {
            Files.deleteIfExists(fresh);
            Files.createFile(fresh, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.write(fresh, JSON.writeValueAsBytes(new Content(nextId, List.copyOf(devices))));
            Files.move(fresh, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
