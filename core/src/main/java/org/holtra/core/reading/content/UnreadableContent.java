package org.holtra.core.reading.content;

/** Content that is not what it should be. The message is a sentence for the engineer, with the place where known. */
public sealed class UnreadableContent extends Exception permits CodecUnavailable {

    private static final long serialVersionUID = 1;

    private final boolean simulated;

    public UnreadableContent(String message) {
        this(message, false);
    }

    /** @param simulated whether that much could be read: that a simulated device sent it */
    public UnreadableContent(String message, boolean simulated) {
        super(message.replaceAll("[\\p{Cntrl}&&[^\n]]", "·"));
        this.simulated = simulated;
    }

    public boolean simulated() {
        return simulated;
    }
}
