package org.holtra.core.expression;

/** An expression that cannot be compiled: what is wrong, where, and the source with a caret under the place. */
public final class ExpressionProblem extends Exception {

    private final int line;
    private final int column;
    private final String picture;

    /**
     * @param line from 1
     * @param column from 1
     */
    ExpressionProblem(String what, String source, int line, int column) {
        super(what);
        this.line = line;
        this.column = column;
        this.picture = picture(source, line, column);
    }

    public int line() {
        return line;
    }

    public int column() {
        return column;
    }

    /** The line of the source that is wrong, and under it a caret at the place. */
    public String picture() {
        return picture;
    }

    private static String picture(String source, int line, int column) {
        String text = source.lines().skip(Math.max(0, line - 1)).findFirst().orElse(source);
        return text + "\n" + " ".repeat(Math.max(0, Math.min(column - 1, text.length()))) + "^";
    }
}
