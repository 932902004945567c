package org.holtra.core.reading;

/** Content that is not what it should be. The message is a sentence for the engineer, with the place where known. */
public final class UnreadableContent extends Exception {

    public UnreadableContent(String message) {
        super(message.replaceAll("[\\p{Cntrl}&&[^\n]]", "·"));
    }
}
