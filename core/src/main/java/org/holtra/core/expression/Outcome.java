package org.holtra.core.expression;

/** What evaluating an expression came to. */
public sealed interface Outcome {

    record Value(Object value) implements Outcome {}

    /**
     * There is no value.
     *
     * @param reason a sentence that names the field or the operation
     * @param missing whether the reason is a field that is not there, as against one of the wrong type and the like
     */
    record None(String reason, boolean missing) implements Outcome {}
}
