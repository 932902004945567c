package org.holtra.service.devices;

import java.util.regex.Pattern;

/**
 * A text as a cell of a table that people open in a spreadsheet. What begins like a formula would be computed there, with
 * whatever a device calls itself; an apostrophe before it keeps it text, and is taken away when the table comes back.
 */
public final class SpreadsheetCell {

    private static final Pattern NUMBER = Pattern.compile("[-+]?\\d+(\\.\\d+)?([eE][-+]?\\d+)?");
    private static final Pattern FORMULA = Pattern.compile("(?s)'*[=+\\-@\\t\\r].*");

    private SpreadsheetCell() {}

    /** @param text may be null */
    public static String of(String text) {
        return text != null
                        && FORMULA.matcher(text).matches()
                        && !NUMBER.matcher(text).matches()
                ? "'" + text
                : text;
    }

    /** The text that a cell was made of. */
    public static String text(String cell) {
        return cell.startsWith("'") && FORMULA.matcher(cell).matches() ? cell.substring(1) : cell;
    }
}
