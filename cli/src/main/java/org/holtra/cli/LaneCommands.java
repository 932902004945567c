package org.holtra.cli;

import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "lane",
        mixinStandardHelpOptions = true,
        description = "What carries messages from inlets to an outlet.",
        subcommands = {LaneTryCommand.class, LaneRehearseCommand.class},
        synopsisSubcommandLabel = "(list | show | try | rehearse | open | close | remove)")
final class LaneCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the lanes, the most troubled first.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode lanes = connection.api().get("/api/v1/lanes");
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

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows one as the setup file has it.")
    int show(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lane", name, connection, output).show();
    }

    @Command(name = "open", mixinStandardHelpOptions = true, description = "Opens one that is closed.")
    int open(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lane", name, connection, output).open();
    }

    @Command(
            name = "close",
            mixinStandardHelpOptions = true,
            description = "Closes one: it goes on taking messages and keeps them until it is opened.")
    int close(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lane", name, connection, output).close();
    }

    @Command(
            name = "remove",
            mixinStandardHelpOptions = true,
            description = "Takes a lane away. Refused as long as it owes deliveries, unless --drop is said.")
    int remove(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Option(names = "--drop", paramLabel = "LANE", description = "Its name once more: drop what it owes.")
                    String drop,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lane", name, connection, output).remove(drop);
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
