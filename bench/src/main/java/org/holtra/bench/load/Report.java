package org.holtra.bench.load;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;

/** The figures of a run, as a table between two marks of a document. */
final class Report {

    private static final String BEGIN = "<!-- load: written by ./holtra bench -->";
    private static final String END = "<!-- /load -->";

    private record Line(String what, String figure, String beside) {}

    private final List<Line> lines = new ArrayList<>();

    void add(String what, String figure, String beside) {
        lines.add(new Line(what, figure, beside));
    }

    /** @param document null to write nothing */
    void write(Path document) throws IOException {
        if (document == null) {
            return;
        }
        StringBuilder table = new StringBuilder(BEGIN)
                .append("\n\nRun on ")
                .append(LocalDate.now())
                .append(", ")
                .append(Runtime.getRuntime().availableProcessors())
                .append(" cores, Java ")
                .append(Runtime.version().feature())
                .append(".\n\n| what | figure | beside |\n| --- | --- | --- |\n");
        lines.forEach(line -> table.append("| ")
                .append(line.what.strip())
                .append(" | ")
                .append(line.figure)
                .append(" | ")
                .append(line.beside)
                .append(" |\n"));
        String text = Files.readString(document);
        int from = text.indexOf(BEGIN);
        int to = text.indexOf(END);
        if (from < 0 || to < from) {
            throw new IllegalStateException(document + " has no place for the table: " + BEGIN + " … " + END);
        }
        Files.writeString(document, text.substring(0, from) + table + "\n" + text.substring(to));
    }
}
