package org.holtra.service.credentials;

import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Arrays;
import java.util.List;
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

    private final List<SecretKeySpec> keys;
    private final SecureRandom random;

    /** @param keys of 32 bytes each; the first seals, any opens */
    Seal(List<byte[]> keys, SecureRandom random) {
        this.keys = keys.stream().map(key -> new SecretKeySpec(key, "AES")).toList();
        this.random = random;
    }

    /** Whether it was sealed with a key that is no longer the first. */
    boolean isOld(String name, byte[] sealed) {
        try {
            run(Cipher.DECRYPT_MODE, keys.getFirst(), name, nonce(sealed), content(sealed));
            return false;
        } catch (GeneralSecurityException e) {
            return true;
        }
    }

    byte[] seal(String name, byte[] plain) {
        byte[] nonce = new byte[NONCE];
        random.nextBytes(nonce);
        byte[] sealed;
        try {
            sealed = run(Cipher.ENCRYPT_MODE, keys.getFirst(), name, nonce, plain);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("credential `" + name + "` cannot be sealed", e);
        }
        byte[] all = Arrays.copyOf(nonce, NONCE + sealed.length);
        System.arraycopy(sealed, 0, all, NONCE, sealed.length);
        return all;
    }

    /** @throws IllegalStateException if it was sealed with another key, or changed since */
    byte[] open(String name, byte[] sealed) {
        GeneralSecurityException last = null;
        for (SecretKeySpec key : keys) {
            try {
                return run(Cipher.DECRYPT_MODE, key, name, nonce(sealed), content(sealed));
            } catch (GeneralSecurityException e) {
                last = e;
            }
        }
        throw new IllegalStateException(
                "credential `" + name + "` cannot be opened: is the key file the one it was sealed with?", last);
    }

    private static byte[] nonce(byte[] sealed) {
        return Arrays.copyOf(sealed, NONCE);
    }

    private static byte[] content(byte[] sealed) {
        return Arrays.copyOfRange(sealed, NONCE, sealed.length);
    }

    private static byte[] run(int mode, SecretKeySpec key, String name, byte[] nonce, byte[] input)
            throws GeneralSecurityException {
        Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
        cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
        cipher.updateAAD(name.getBytes(java.nio.charset.StandardCharsets.UTF_8));
        return cipher.doFinal(input);
    }
}
