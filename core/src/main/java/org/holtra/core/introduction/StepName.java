package org.holtra.core.introduction;

import java.util.List;
import java.util.Optional;

/** What a recipe asks of a destination, each by one exchange. */
public enum StepName {
    /** Looks whether the device is there. */
    FIND("find"),
    /** Looks whether its name is another's there; for a dry run. */
    TAKEN("taken"),
    CREATE("create"),
    ACTIVATE("activate"),
    /** Tells what it measures, where it stands. */
    DESCRIBE("describe"),
    /** Looks what became of it there. */
    COMPARE("compare"),
    REMOVE("remove");

    /** Those by which a device is introduced, in their order. */
    public static final List<StepName> INTRODUCING = List.of(FIND, CREATE, ACTIVATE, DESCRIBE);

    private final String word;

    StepName(String word) {
        this.word = word;
    }

    public String word() {
        return word;
    }

    /** @param word null for none */
    public static Optional<StepName> of(String word) {
        return List.of(values()).stream().filter(one -> one.word.equals(word)).findFirst();
    }
}
