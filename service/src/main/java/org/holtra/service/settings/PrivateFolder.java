package org.holtra.service.settings;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Set;

/** A folder that nobody but its owner may enter: what lies in it is what devices sent, in clear. */
public final class PrivateFolder {

    private static final Set<PosixFilePermission> OWNER_ONLY = PosixFilePermissions.fromString("rwx------");

    private PrivateFolder() {}

    /** Makes it if it is not there, and closes it to others if it was open to them. */
    public static void ready(Path folder) throws IOException {
        if (!Files.isDirectory(folder)) {
            if (folder.toAbsolutePath().getParent() != null) {
                Files.createDirectories(folder.toAbsolutePath().getParent());
            }
            Files.createDirectory(folder, PosixFilePermissions.asFileAttribute(OWNER_ONLY));
        } else if (!OWNER_ONLY.containsAll(Files.getPosixFilePermissions(folder))) {
            Files.setPosixFilePermissions(folder, OWNER_ONLY);
        }
    }
}
