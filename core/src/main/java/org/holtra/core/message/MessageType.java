package org.holtra.core.message;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;

/** What a message is. */
public enum MessageType {
    READING,
    STATUS,
    FAULT,
    EVENT,
    ALARM,
    RESULT;

    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    public static Optional<MessageType> of(String word) {
        return Arrays.stream(values()).filter(type -> type.word().equals(word)).findFirst();
    }

    /** All words, for an error that says what would have been right. */
    public static String words() {
        return Arrays.stream(values()).map(MessageType::word).collect(Collectors.joining(", "));
    }
}
