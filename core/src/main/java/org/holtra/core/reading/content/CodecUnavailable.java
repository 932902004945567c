package org.holtra.core.reading.content;

/**
 * A codec could not be run, or had to be stopped: nothing is said of the content, which may well be readable later. What
 * only shows content can treat it as {@link UnreadableContent}; what decides about a message must not.
 */
public final class CodecUnavailable extends UnreadableContent {

    private static final long serialVersionUID = 1;

    private final boolean stopped;

    /** @param stopped whether it was stopped over this content, rather than not run at all */
    public CodecUnavailable(String message, boolean stopped) {
        super(message);
        this.stopped = stopped;
    }

    public boolean stopped() {
        return stopped;
    }
}
