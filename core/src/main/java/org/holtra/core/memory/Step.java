package org.holtra.core.memory;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/**
 * What came of taking a message, or of time going by.
 *
 * @param state from then on
 * @param fates of messages; each gets one, once
 * @param made messages made of others
 */
public record Step<S>(S state, List<Fate> fates, List<Made> made) {

    /** What becomes of a message that a lane with memory took. */
    public sealed interface Fate {

        UUID message();

        /** It goes on as it is. */
        record Passed(UUID message, boolean late) implements Fate {}

        /** It ends here. */
        record HeldBack(UUID message, String reason) implements Fate {}

        /** It is part of another. */
        record Merged(UUID message, Name into) implements Fate {}
    }

    /**
     * What a message made of others is called, known from its first part on.
     *
     * @param text that no other of its lane and key has
     * @param stamp that stands for its time of arrival
     */
    public record Name(String text, Instant stamp) {}

    /**
     * A message made of others.
     *
     * @param at its event time
     * @param data its fields, by their flat names
     * @param note what a person should know of it, or null
     * @param missing parts that did not come, where it is not to go without them; else empty
     */
    public record Made(Name name, Instant at, Map<String, Object> data, String note, List<String> missing) {}

    public static <S> Step<S> of(S state) {
        return new Step<>(state, List.of(), List.of());
    }

    public static <S> Step<S> of(S state, Fate fate) {
        return new Step<>(state, List.of(fate), List.of());
    }

    public static <S> Step<S> of(S state, Made made) {
        return new Step<>(state, List.of(), List.of(made));
    }

    /** The same with a fate more. */
    Step<S> and(Fate fate) {
        return then(of(state, fate));
    }

    /** This one, and then another. */
    public Step<S> then(Step<S> next) {
        return new Step<>(next.state, together(fates, next.fates), together(made, next.made));
    }

    private static <T> List<T> together(List<T> one, List<T> other) {
        if (one.isEmpty()) {
            return other;
        }
        List<T> both = new ArrayList<>(one);
        both.addAll(other);
        return List.copyOf(both);
    }
}
