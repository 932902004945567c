package org.holtra.core.memory;

import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** What stands for the values of a field within an interval. */
public enum Choice {
    FIRST,
    LAST,
    MEAN,
    MIN,
    MAX,
    SUM,
    COUNT;

    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    public static Optional<Choice> of(String word) {
        return List.of(values()).stream()
                .filter(choice -> choice.word().equals(word))
                .findFirst();
    }

    /** Whether it takes numbers only. */
    boolean isOfNumbers() {
        return this == MEAN || this == MIN || this == MAX || this == SUM;
    }
}
