package org.holtra.core.setup.document;

/**
 * Something wrong in a setup file.
 *
 * @param line from 1
 * @param column from 1
 * @param where the part, such as {@code lanes.frost-calls.pick}; empty for the file as a whole
 * @param what what is wrong and how to mend it
 */
public record SetupProblem(int line, int column, String where, String what) {

    @Override
    public String toString() {
        return "line " + line + (where.isEmpty() ? "" : ", " + where) + ": " + what;
    }
}
