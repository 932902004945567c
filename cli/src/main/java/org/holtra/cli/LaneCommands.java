package org.holtra.cli;

import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import tools.jackson.databind.JsonNode;

@Command(
        name = "lane",
        mixinStandardHelpOptions = true,
        description = "What carries messages from inlets to an outlet.",
        synopsisSubcommandLabel = "list")
final class LaneCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the lanes, the most troubled first.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode lanes = connection.api().get("/api/lanes");
        if (!output.asJson(lanes)) {
            Table table =
                    new Table("lane", "state", "inlets", "outlet", ">last hour", ">owes", ">dead", "oldest", "reason");
            for (JsonNode lane : lanes) {
                table.row(
                        lane.path("lane").asString(),
                        lane.path("trouble").asString(),
                        joined(lane.path("inlets")),
                        lane.path("outlet").asString(),
                        sum(lane.at("/traffic/taken")),
                        lane.path("owes").asLong(),
                        lane.path("dead").asLong(),
                        Words.since(lane.path("oldest")),
                        lane.path("reason").asString(""));
            }
            table.print(output, "There are no lanes. Adopt a setup with: holtra setup adopt FILE");
        }
        return 0;
    }

    static String joined(JsonNode names) {
        return StreamSupport.stream(names.spliterator(), false)
                .map(JsonNode::asString)
                .collect(Collectors.joining(", "));
    }

    private static long sum(JsonNode counts) {
        return StreamSupport.stream(counts.spliterator(), false)
                .mapToLong(JsonNode::asLong)
                .sum();
    }
}
