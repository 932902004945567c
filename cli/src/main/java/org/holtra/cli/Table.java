package org.holtra.cli;

import java.util.ArrayList;
import java.util.List;

/** Rows under a head, each column as wide as its widest cell. Columns named with a leading {@code >} stand to the right. */
final class Table {

    private final List<String> head = new ArrayList<>();
    private final List<Boolean> right = new ArrayList<>();
    private final List<List<String>> rows = new ArrayList<>();

    Table(String... columns) {
        for (String column : columns) {
            right.add(column.startsWith(">"));
            head.add(column.startsWith(">") ? column.substring(1) : column);
        }
    }

    void row(Object... cells) {
        List<String> row = new ArrayList<>();
        for (Object cell : cells) {
            row.add(cell == null ? "" : cell.toString());
        }
        rows.add(row);
    }

    /** @param nothing what to say if there are no rows */
    void print(Output output, String nothing) {
        if (rows.isEmpty()) {
            output.line(nothing);
            return;
        }
        int[] widths = new int[head.size()];
        for (int column = 0; column < widths.length; column++) {
            widths[column] = head.get(column).length();
            for (List<String> row : rows) {
                widths[column] = Math.max(widths[column], row.get(column).length());
            }
        }
        output.line(output.styled("bold", line(head, widths)));
        rows.forEach(row -> output.line(line(row, widths)));
    }

    private String line(List<String> cells, int[] widths) {
        StringBuilder line = new StringBuilder();
        for (int column = 0; column < widths.length; column++) {
            String cell = cells.get(column);
            String space = " ".repeat(widths[column] - cell.length());
            line.append(right.get(column) ? space + cell : cell + space).append("  ");
        }
        return line.toString().stripTrailing();
    }
}
