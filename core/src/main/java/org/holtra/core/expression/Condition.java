package org.holtra.core.expression;

import java.util.List;
import java.util.Optional;

/** A compiled condition, and its parts for telling why it was not met. */
public final class Condition {

    private final Expression whole;
    private final List<Expression> parts;
    private final List<Comparison> comparisons;

    Condition(Expression whole, List<Expression> parts, List<Comparison> comparisons) {
        this.whole = whole;
        this.parts = parts;
        this.comparisons = comparisons;
    }

    public String source() {
        return whole.source();
    }

    /** The fields it reads, in the order they are written. */
    public List<FieldPath> fields() {
        return whole.fields();
    }

    /** The values it met, with their units, in words; empty if it reads no field. */
    public String values(Scope scope) {
        String text = whole.values(scope);
        return text.isEmpty() ? text : text.substring(2, text.length() - 1);
    }

    /** The comparisons of fields with numbers and with other fields that stand in it. */
    public List<Comparison> comparisons() {
        return comparisons;
    }

    /** A field that is missing or of the wrong type makes a condition not met; it is never an error. */
    public boolean holds(Scope scope) {
        return whole.holds(scope);
    }

    /** Why it does not hold, in words, with the values it met; empty if it holds. */
    public Optional<String> whyNot(Scope scope) {
        if (holds(scope)) {
            return Optional.empty();
        }
        for (Expression part : parts) {
            switch (part.evaluate(scope)) {
                case Outcome.None(String reason, boolean missing) -> {
                    return Optional.of(reason);
                }
                case Outcome.Value(Object value)
                when Boolean.FALSE.equals(value) -> {
                    return Optional.of("`" + part.source() + "` is false" + part.values(scope));
                }
                case Outcome.Value(Object value)
                when !Boolean.TRUE.equals(value) -> {
                    return Optional.of("`" + part.source() + "` is neither true nor false but " + Plain.brief(value));
                }
                default -> {}
            }
        }
        return Optional.of("`" + whole.source() + "` is not true" + whole.values(scope));
    }
}
