package org.holtra.service.credentials;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.Base64;

/** The file that holds the key which seals credentials, made at the first start, readable by its owner only. */
final class KeyFile {

    private static final int KEY_BYTES = 32;

    private KeyFile() {}

    static byte[] readOrMake(Path file, SecureRandom random) throws IOException {
        if (Files.exists(file)) {
            return Base64.getDecoder().decode(Files.readString(file).strip());
        }
        byte[] key = new byte[KEY_BYTES];
        random.nextBytes(key);
        if (file.getParent() != null) {
            Files.createDirectories(file.getParent());
        }
        Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.writeString(file, Base64.getEncoder().encodeToString(key) + "\n", StandardOpenOption.WRITE);
        return key;
    }
}
