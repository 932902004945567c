package org.holtra.core.expression;

import dev.cel.common.CelErrorCode;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelRuntime;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** A compiled expression. */
public final class Expression {

    private static final int LONGEST_REASON = 400;

    private final String source;
    private final CelRuntime.Program program;
    private final List<FieldPath> fields;
    private final Tree tree;

    /** @param tree the same as a tree of our own; null where it cannot be one */
    Expression(String source, CelRuntime.Program program, Set<FieldPath> fields, Tree tree) {
        this.source = source;
        this.program = program;
        this.fields = List.copyOf(fields);
        this.tree = tree;
    }

    public String source() {
        return source;
    }

    /** In the order they are written. */
    public List<FieldPath> fields() {
        return fields;
    }

    /** Never throws for what a message holds or lacks: that is an outcome. */
    public Outcome evaluate(Scope scope) {
        if (tree != null) {
            Object found = tree.of(scope);
            if (found != Tree.UNKNOWN && found != Tree.MISSING) {
                return new Outcome.Value(found);
            }
        }
        return judged(scope);
    }

    /** Whether it is true. What has no value is not, and why does not matter here. */
    boolean holds(Scope scope) {
        if (tree != null) {
            Object found = tree.of(scope);
            if (found != Tree.UNKNOWN) {
                return found == Boolean.TRUE || Boolean.TRUE.equals(found);
            }
        }
        return judged(scope) instanceof Outcome.Value(Object value) && Boolean.TRUE.equals(value);
    }

    /** What the general runtime says. */
    Outcome judged(Scope scope) {
        try {
            return new Outcome.Value(program.eval(scope.variables()));
        } catch (CelEvaluationException e) {
            return none(e.getErrorCode(), ownWords(e), scope);
        } catch (ClassCastException | IllegalArgumentException | ArithmeticException e) {
            // Some of the library's own functions let these escape for values of an unforeseen type.
            return none(CelErrorCode.INTERNAL_ERROR, e.getMessage(), scope);
        }
    }

    /** What one of our own functions said, under the sentences the library wraps around it; else the library's. */
    private static String ownWords(CelEvaluationException e) {
        Throwable cause = e;
        while (cause.getCause() != null && cause.getCause() != cause) {
            cause = cause.getCause();
            if (cause.getClass() == IllegalArgumentException.class) {
                return cause.getMessage();
            }
        }
        return e.getMessage();
    }

    private Outcome.None none(CelErrorCode code, String message, Scope scope) {
        Optional<FieldPath> missing =
                fields.stream().filter(field -> field.value(scope).isEmpty()).findFirst();
        if (code == CelErrorCode.ATTRIBUTE_NOT_FOUND || (code != CelErrorCode.DIVIDE_BY_ZERO && missing.isPresent())) {
            return new Outcome.None(
                    missing.map(field -> field + " is not there").orElse("a field it reads is not there"), true);
        }
        String why = switch (code) {
            case OVERLOAD_NOT_FOUND -> "an operator does not work on the types it met";
            case DIVIDE_BY_ZERO -> "it divides by zero";
            case INDEX_OUT_OF_BOUNDS -> "a list is shorter than the place asked for";
            case NUMERIC_OVERFLOW -> "a number is too large";
            case ITERATION_BUDGET_EXCEEDED -> "a list is longer than an expression may walk";
            default -> message == null ? "it cannot be evaluated" : brief(message);
        };
        return new Outcome.None("`" + source + "` has no value: " + why + values(scope), false);
    }

    /** The library quotes arguments whole, however long. */
    private static String brief(String message) {
        return message.length() > LONGEST_REASON ? message.substring(0, LONGEST_REASON) + "…" : message;
    }

    /** The values of the fields it reads, as a tail for a sentence; empty where it reads none. */
    String values(Scope scope) {
        StringBuilder text = new StringBuilder();
        for (FieldPath field : fields) {
            text.append(text.isEmpty() ? " (" : ", ");
            text.append(field).append(" is ");
            text.append(field.value(scope)
                    .map(value -> Plain.brief(value) + scope.unit(field))
                    .orElse("not there"));
        }
        return text.isEmpty() ? "" : text.append(')').toString();
    }
}
