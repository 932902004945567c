package org.holtra.core.delivery;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;

/**
 * How an outlet sends the contents of several deliveries as one.
 *
 * @param messages at most so many in one
 * @param bytes at most so many in one, unless a single content is longer
 * @param patience how long the first waits for others
 * @param form how the contents stand together, in a word of the outlet's kind; null for the usual way
 * @param answers gives, from the answer to a batch, a list with what became of each message in the order sent; null where
 *     the destination takes batches whole or not at all
 */
public record Batch(int messages, int bytes, Duration patience, String form, Expression answers) {

    public static final int USUAL_MESSAGES = 100;
    public static final int USUAL_BYTES = 256 * 1024;
    public static final Duration USUAL_PATIENCE = Duration.ofSeconds(1);

    /** What the answer to a batch says of each of its messages. Empty if it says that of fewer or more. */
    public Optional<List<?>> each(Answer whole, int count) {
        return answers.evaluate(whole.scope()) instanceof Outcome.Value(Object value)
                        && value instanceof List<?> entries
                        && entries.size() == count
                ? Optional.of(entries)
                : Optional.empty();
    }

    private String answersSource() {
        return answers == null ? null : answers.source();
    }

    /** Batches that are written the same are the same, compiled once or twice. */
    @Override
    public boolean equals(Object other) {
        return other instanceof Batch that
                && List.of(messages, bytes, patience, String.valueOf(form), String.valueOf(answersSource()))
                        .equals(List.of(
                                that.messages,
                                that.bytes,
                                that.patience,
                                String.valueOf(that.form),
                                String.valueOf(that.answersSource())));
    }

    @Override
    public int hashCode() {
        return List.of(messages, bytes, patience, String.valueOf(form)).hashCode();
    }
}
