package org.holtra.service.credentials;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIOException;

import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class KeyFileTest {

    @TempDir
    private Path folder;

    private final SecureRandom random = new SecureRandom();

    @Test
    void isMadeForItsOwnerOnlyAndReadAgain() throws Exception {
        Path file = folder.resolve("sub/holtra.key");

        List<byte[]> made = KeyFile.readOrMake(file, random);

        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
                .isEqualTo("rw-------");
        assertThat(KeyFile.readOrMake(file, random)).hasSize(1).first().isEqualTo(made.getFirst());
    }

    @Test
    void holdsTheKeysBeforeTooTheNewestFirst() throws Exception {
        Path file = folder.resolve("holtra.key");
        Path fresh = folder.resolve("fresh.key");
        byte[] before = KeyFile.readOrMake(file, random).getFirst();
        byte[] now = KeyFile.readOrMake(fresh, random).getFirst();
        Files.writeString(file, Files.readString(fresh) + Files.readString(file));

        assertThat(KeyFile.readOrMake(file, random)).containsExactly(now, before);
    }

    @Test
    void oneThatOthersMayReadIsRefusedInWords() throws Exception {
        Path file = folder.resolve("holtra.key");
        KeyFile.readOrMake(file, random);
        Files.setPosixFilePermissions(file, PosixFilePermissions.fromString("rw-r-----"));

        assertThatIOException()
                .isThrownBy(() -> KeyFile.readOrMake(file, random))
                .withMessage("others than its owner may read or change the key file " + file
                        + ", which opens all credentials; close it to them: chmod 600 " + file);
    }

    @Test
    void oneThatHoldsNoKeyIsRefusedInWords() throws Exception {
        Path file = folder.resolve("holtra.key");
        Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));

        assertThatIOException()
                .isThrownBy(() -> KeyFile.readOrMake(file, random))
                .withMessageContaining("must hold keys of 32 bytes in base64, one a line");
    }
}
