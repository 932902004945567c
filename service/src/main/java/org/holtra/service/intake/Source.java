package org.holtra.service.intake;

/** An open inlet. */
public interface Source extends AutoCloseable {

    /** Takes nothing more until it is resumed: nothing can be kept now. May be asked for again and again. */
    default void pause() {
        // A kind whose senders cannot wait is never paused.
    }

    default void resume() {
        // See pause.
    }

    /** Takes nothing more, and lets go of what it holds open. */
    @Override
    void close();

    /** In place of {@link #close}: a person closed or removed the inlet, and its senders need keep nothing for it any more. */
    default void forget() {
        close();
    }
}
