package org.holtra.standins.cloud;

import java.util.Arrays;
import java.util.Optional;

/** What a token may do; each is granted by itself. */
public enum Right {
    READ_DEVICES("devices:read"),
    CREATE_DEVICES("devices:write"),
    WRITE_MEASUREMENTS("measurements:write"),
    MANAGE_USERS("users:manage");

    private final String word;

    Right(String word) {
        this.word = word;
    }

    public String word() {
        return word;
    }

    static Optional<Right> of(String word) {
        return Arrays.stream(values()).filter(right -> right.word.equals(word)).findFirst();
    }
}
