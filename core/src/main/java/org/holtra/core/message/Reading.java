package org.holtra.core.message;

/** What reading an arrival came to. */
public sealed interface Reading {

    Arrival arrival();

    record Read(Message message) implements Reading {
        @Override
        public Arrival arrival() {
            return message.arrival();
        }
    }

    /**
     * @param reason what could not be read, where, and how to mend it, in a sentence
     * @param origin who sent it, as far as that could be told: device and type may be null
     */
    record Unreadable(Arrival arrival, String reason, Origin origin) implements Reading {}

    /**
     * Its codec could not be run; it can be read later.
     *
     * @param reason why, in a sentence
     * @param stopped whether the codec had to be stopped over this very content
     */
    record Deferred(Arrival arrival, String reason, Origin origin, boolean stopped) implements Reading {}
}
