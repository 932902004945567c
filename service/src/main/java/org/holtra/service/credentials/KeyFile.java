package org.holtra.service.credentials;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermission;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;

/**
 * The file that holds the keys which seal credentials, in base64, one a line: the first seals, the others open what was sealed
 * before. It is made at the first start, readable by its owner only.
 */
final class KeyFile {

    private static final int KEY_BYTES = 32;
    private static final Set<PosixFilePermission> OF_OTHERS = EnumSet.of(
            PosixFilePermission.GROUP_READ,
            PosixFilePermission.GROUP_WRITE,
            PosixFilePermission.OTHERS_READ,
            PosixFilePermission.OTHERS_WRITE);

    private KeyFile() {}

    /** @throws IOException if it cannot be read, or others than its owner may read or change it */
    static List<byte[]> readOrMake(Path file, SecureRandom random) throws IOException {
        if (Files.exists(file)) {
            return read(file);
        }
        byte[] key = new byte[KEY_BYTES];
        random.nextBytes(key);
        if (file.getParent() != null) {
            Files.createDirectories(file.getParent());
        }
        Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.writeString(file, Base64.getEncoder().encodeToString(key) + "\n", StandardOpenOption.WRITE);
        return List.of(key);
    }

    private static List<byte[]> read(Path file) throws IOException {
        Set<PosixFilePermission> loose = EnumSet.copyOf(OF_OTHERS);
        loose.retainAll(Files.getPosixFilePermissions(file));
        if (!loose.isEmpty()) {
            throw new IOException("others than its owner may read or change the key file " + file
                    + ", which opens all credentials; close it to them: chmod 600 " + file);
        }
        List<byte[]> keys = Files.readAllLines(file).stream()
                .map(String::strip)
                .filter(line -> !line.isEmpty())
                .map(Base64.getDecoder()::decode)
                .toList();
        if (keys.isEmpty() || keys.stream().anyMatch(key -> key.length != KEY_BYTES)) {
            throw new IOException("the key file " + file + " must hold keys of " + KEY_BYTES
                    + " bytes in base64, one a line; it holds " + keys.size() + " lines");
        }
        return keys;
    }
}
