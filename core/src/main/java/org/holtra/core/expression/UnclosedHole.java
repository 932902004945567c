package org.holtra.core.expression;

/** The one mistake in a template that is not one in an expression. */
public final class UnclosedHole {

    private UnclosedHole() {}

    /** @param column where the hole opens, from 1 */
    public static ExpressionProblem at(String source, int column) {
        return new ExpressionProblem("`${` is opened here and never closed by `}`", source, 1, column);
    }
}
