package org.holtra.service.dispatch;

import java.util.Optional;
import org.holtra.core.shape.Content;

/** An open outlet: the way to one destination. Used by many threads at once; never shared with another outlet. */
public interface Sink extends AutoCloseable {

    /** Makes one attempt, and says what came of it. What goes wrong on the way is a verdict, not an exception. */
    Attempted attempt(Request request);

    /**
     * Asks for something and reads the answer, as a step of a recipe wants it. What goes wrong on the way is an outcome, not
     * an exception.
     *
     * @throws UnsupportedOperationException if the outlet's kind cannot introduce devices
     */
    default Asked ask(Request request) {
        throw new UnsupportedOperationException("this kind of outlet cannot ask for anything");
    }

    /**
     * What an attempt would send. Sends nothing.
     *
     * @throws IllegalArgumentException if it cannot be sent, with a sentence for people
     */
    Exchange preview(Request request);

    /** Why a content cannot stand in a batch with others, in a sentence; empty if it can. */
    default Optional<String> whyNotTogether(Content content) {
        return Optional.empty();
    }

    /**
     * Whether one request may hold several messages of a device whose order is kept: the destination takes them in their
     * order, and takes none behind one that is to be tried again.
     */
    default boolean keepsOrderWithin() {
        return false;
    }

    @Override
    void close();
}
