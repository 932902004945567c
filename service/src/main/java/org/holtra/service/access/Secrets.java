package org.holtra.service.access;

import java.security.SecureRandom;
import java.util.Base64;
import org.springframework.stereotype.Component;

/** Makes secrets that nobody can guess. */
@Component
public class Secrets {

    private final SecureRandom random = new SecureRandom();

    /** @param bytes of randomness; the text is a third longer, of letters, digits, dash and underscore */
    public String next(int bytes) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes(bytes));
    }

    public byte[] bytes(int count) {
        byte[] bytes = new byte[count];
        random.nextBytes(bytes);
        return bytes;
    }
}
