package org.holtra.service.credentials;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.security.SecureRandom;
import java.util.List;
import org.junit.jupiter.api.Test;

class SealTest {

    @Test
    void whatIsSealedOpensUnderItsOwnNameAndKeyOnly() {
        SecureRandom random = new SecureRandom();
        byte[] key = new byte[32];
        random.nextBytes(key);
        byte[] other = new byte[32];
        Seal seal = new Seal(List.of(key), random);
        byte[] sealed = seal.seal("desk", "secret".getBytes());

        assertThat(new String(sealed, java.nio.charset.StandardCharsets.ISO_8859_1))
                .doesNotContain("secret");
        assertThat(seal.seal("desk", "secret".getBytes())).isNotEqualTo(sealed);
        assertThat(seal.open("desk", sealed)).isEqualTo("secret".getBytes());
        assertThatThrownBy(() -> seal.open("board", sealed)).isInstanceOf(IllegalStateException.class);
        assertThatThrownBy(() -> new Seal(List.of(other), random).open("desk", sealed))
                .isInstanceOf(IllegalStateException.class);
        Seal rotated = new Seal(List.of(other, key), random);
        assertThat(rotated.open("desk", sealed)).isEqualTo("secret".getBytes());
        assertThat(rotated.isOld("desk", sealed)).isTrue();
        assertThat(rotated.isOld("desk", rotated.seal("desk", "secret".getBytes())))
                .isFalse();
    }
}
