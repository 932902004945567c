package org.holtra.service.introductions;

import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** How a device stands at an outlet's destination. */
public enum IntroductionState {
    /** Its turn has not come. */
    WAITING,
    /** A step is under way, or comes next. */
    INTRODUCING,
    KNOWN,
    /** A person, or a change of the setup, has to mend something. */
    REFUSED,
    /** It is being removed there. */
    REMOVING;

    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    public static Optional<IntroductionState> find(String word) {
        return List.of(values()).stream().filter(one -> one.word().equals(word)).findFirst();
    }

    static IntroductionState of(String word) {
        return find(word).orElseThrow(() -> new IllegalStateException("no state of an introduction is called " + word));
    }
}
