package org.holtra.scripts;

/** A script threw, has not the function asked for, or is no script; the message says which, and at which line. */
final class ScriptFailure extends Exception {

    private static final long serialVersionUID = 1;

    ScriptFailure(String message) {
        super(message, null, false, false);
    }
}
