package org.holtra.cli;

/** A call that did not succeed: why, in a sentence, and the exit code that tells scripts. */
final class ApiFailure extends RuntimeException {

    private static final long serialVersionUID = 1L;

    private final int exitCode;

    ApiFailure(int exitCode, String message) {
        super(message);
        this.exitCode = exitCode;
    }

    int exitCode() {
        return exitCode;
    }
}
