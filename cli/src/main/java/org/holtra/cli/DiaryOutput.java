package org.holtra.cli;

import java.util.List;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

/** The diary of an inlet or outlet, printed. */
final class DiaryOutput {

    @Option(names = "--details", description = "Also show technical details.")
    private boolean details;

    int print(String path, Api api, Output output) {
        JsonNode lines = api.get(path);
        if (!output.asJson(lines)) {
            List<JsonNode> all = lines.valueStream().toList();
            for (JsonNode line : all.reversed()) {
                output.line(Words.dateTime(line.path("at")) + "  "
                        + output.styled("faint", line.path("node").asString()) + "  "
                        + line.path("line").asString());
                if (details && !line.path("detail").isNull()) {
                    line.path("detail").asString().lines().forEach(detail -> output.line("    " + detail));
                }
            }
            if (all.isEmpty()) {
                output.line("Nothing has happened to it yet.");
            }
        }
        return 0;
    }
}
