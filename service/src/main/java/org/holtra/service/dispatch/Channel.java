package org.holtra.service.dispatch;

/** A way to one destination. Used by many threads at once; never shared with another outlet. */
public interface Channel extends AutoCloseable {

    /** Makes one attempt, and says what came of it. What goes wrong on the way is a verdict, not an exception. */
    Attempted attempt(Outgoing outgoing);

    /**
     * What an attempt would send. Sends nothing.
     *
     * @throws IllegalArgumentException if what would be sent is no request, with a sentence for people
     */
    Preview preview(Outgoing outgoing);

    @Override
    void close();
}
