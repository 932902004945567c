package org.holtra.cli;

import java.util.Map;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

/** How much of a long list is wanted. */
final class Limit {

    @Option(
            names = "--limit",
            paramLabel = "N",
            defaultValue = "50",
            description = "At most this many; ${DEFAULT-VALUE} by default.")
    private int limit;

    /** @param list the name of the list in the answer */
    JsonNode page(Connection connection, String path, String list, Map<String, ?> query) {
        return Pages.first(connection.api(), path, list, query, limit);
    }

    /** Says so under a table that does not show all. */
    static void more(Output output, JsonNode page) {
        if (page.hasNonNull("next")) {
            output.line(output.styled("faint", "There are more: give a larger --limit, or narrow the choice."));
        }
    }
}
