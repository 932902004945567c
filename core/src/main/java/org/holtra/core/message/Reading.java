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
     * @param simulated whether it came from a simulated device, as far as that could be told
     */
    record Unreadable(Arrival arrival, String reason, boolean simulated) implements Reading {}
}
