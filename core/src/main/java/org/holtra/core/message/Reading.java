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
     * @param origin who sent it, as far as that could be told: device and sort may be null
     */
    record Unreadable(Arrival arrival, String reason, Origin origin) implements Reading {}
}
