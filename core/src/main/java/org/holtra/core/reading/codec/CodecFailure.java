package org.holtra.core.reading.codec;

/** Bytes do not fit a layout, or fields do not; the message says where. */
final class CodecFailure extends Exception {

    private static final long serialVersionUID = 1;

    /** Failing is an answer like another here, and made often by fuzzed input: it carries no stack trace. */
    CodecFailure(String message) {
        super(message, null, false, false);
    }
}
