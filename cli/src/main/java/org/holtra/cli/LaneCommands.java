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
        description = "Lanes: carry messages from inlets to an outlet.",
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

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
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
            description = "Closes a lane: it keeps accepting messages and holds them until it is opened.")
    int close(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lane", name, connection, output).close();
    }

    @Command(
            name = "remove",
            mixinStandardHelpOptions = true,
            description = "Removes a lane. Refused while deliveries wait in it, unless --drop is given.")
    int remove(
            @Parameters(paramLabel = "LANE", description = "Its name.") String name,
            @Option(
                            names = "--drop",
                            paramLabel = "LANE",
                            description = "The lane's name again, to confirm that its waiting deliveries are dropped.")
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
