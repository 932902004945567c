package org.holtra.service.credentials;

import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Arrays;
import javax.crypto.Cipher;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.SecretKeySpec;

/**
 * Encrypts credentials at rest: AES-256 in Galois/Counter Mode (NIST SP 800-38D), a fresh nonce each, bound to the
 * credential's name so that one cannot be put in another's place.
 */
final class Seal {

    private static final int NONCE = 12;
    private static final int TAG_BITS = 128;

    private final SecretKeySpec key;
    private final SecureRandom random;

    /** @param key 32 bytes */
    Seal(byte[] key, SecureRandom random) {
        if (key.length != 32) {
            throw new IllegalArgumentException("the key that seals credentials has 32 bytes, this one " + key.length);
        }
        this.key = new SecretKeySpec(key, "AES");
        this.random = random;
    }

    byte[] seal(String name, byte[] plain) {
        byte[] nonce = new byte[NONCE];
        random.nextBytes(nonce);
        byte[] sealed = run(Cipher.ENCRYPT_MODE, name, nonce, plain);
        byte[] all = Arrays.copyOf(nonce, NONCE + sealed.length);
        System.arraycopy(sealed, 0, all, NONCE, sealed.length);
        return all;
    }

    /** @throws IllegalStateException if it was sealed with another key, or changed since */
    byte[] open(String name, byte[] sealed) {
        return run(
                Cipher.DECRYPT_MODE,
                name,
                Arrays.copyOf(sealed, NONCE),
                Arrays.copyOfRange(sealed, NONCE, sealed.length));
    }

    private byte[] run(int mode, String name, byte[] nonce, byte[] input) {
        try {
            Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
            cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
            cipher.updateAAD(name.getBytes(java.nio.charset.StandardCharsets.UTF_8));
            return cipher.doFinal(input);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(
                    "credential `" + name + "` cannot be opened: is the key file the one it was sealed with?", e);
        }
    }
}
