package org.holtra.service.tls;

import java.security.GeneralSecurityException;
import java.security.PrivateKey;
import java.security.PublicKey;
import java.security.Signature;

/** Whether a private key is that of a certificate: what it signs can be verified. */
public final class KeyPairs {

    private static final byte[] SAMPLE = {1, 2, 3, 4};

    private KeyPairs() {}

    public static boolean belong(PublicKey open, PrivateKey secret) {
        String algorithm = switch (secret.getAlgorithm()) {
            case "RSA" -> "SHA256withRSA";
            case "EC" -> "SHA256withECDSA";
            default -> secret.getAlgorithm();
        };
        try {
            Signature signing = Signature.getInstance(algorithm);
            signing.initSign(secret);
            signing.update(SAMPLE);
            Signature verifying = Signature.getInstance(algorithm);
            verifying.initVerify(open);
            verifying.update(SAMPLE);
            return verifying.verify(signing.sign());
        } catch (GeneralSecurityException e) {
            return false; // keys of two algorithms
        }
    }
}
