package org.holtra.cli;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "dead",
        mixinStandardHelpOptions = true,
        description = "Dead letters: deliveries that will not be tried again by themselves.",
        synopsisSubcommandLabel = "(list | retry | drop)")
final class DeadCommands {

    /** Which dead letters; one of the two must be given, so that nothing is done to all by a slip. */
    static final class Chosen {
        @Parameters(paramLabel = "DELIVERY", arity = "1..*", description = "These deliveries.")
        private List<String> deliveries;

        @ArgGroup(exclusive = false)
        private Filter filter;

        @Option(names = "--all", description = "All of them.")
        private boolean all;

        JsonNode body() {
            Map<String, Object> body = filter == null ? new LinkedHashMap<>() : filter.fields();
            body.put("deliveries", deliveries);
            body.put("all", all);
            return Api.mapper().valueToTree(body);
        }
    }

    static final class Filter {
        @Option(names = "--lane", description = "Those of this lane.")
        private String lane;

        @Option(names = "--outlet", description = "Those of this outlet.")
        private String outlet;

        @Option(names = "--cause", description = "Those of this cause.")
        private String cause;

        @Option(names = "--device", description = "Those of this device.")
        private String device;

        Map<String, Object> fields() {
            Map<String, Object> fields = new LinkedHashMap<>();
            fields.put("lane", lane);
            fields.put("outlet", outlet);
            fields.put("cause", cause);
            fields.put("device", device);
            return fields;
        }
    }

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists dead letters, the newest first.")
    int list(
            @ArgGroup(exclusive = false) Filter filter,
            @Mixin Limit limit,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> parameters = filter == null ? new LinkedHashMap<>() : filter.fields();
        JsonNode dead = limit.page(connection, "/api/v1/dead", "letters", parameters);
        if (!output.asJson(dead)) {
            Table table = new Table("delivery", "died", "lane", "outlet", "device", ">attempts", "cause", "reason");
            for (JsonNode letter : dead.path("letters")) {
                table.row(
                        letter.path("delivery").asString(),
                        Words.dateTime(letter.path("died")),
                        letter.path("lane").asString(),
                        letter.path("outlet").asString(),
                        letter.path("device").asString(""),
                        letter.path("attempts").asInt(),
                        letter.path("cause").asString(),
                        letter.path("reason").asString());
            }
            table.print(output, "There are no dead letters.");
            long total = dead.path("total").asLong();
            if (total > dead.path("letters").size()) {
                output.line("… of " + total + " in all");
            }
        }
        return 0;
    }

    @Command(
            name = "retry",
            mixinStandardHelpOptions = true,
            description = "Retries dead letters with their lanes' current shape.")
    int retry(
            @ArgGroup(multiplicity = "1") Chosen chosen,
            @Option(names = "--to", description = "Deliver to this outlet instead of their lanes' own.") String to,
            @Option(names = "--preview", description = "Only count them.") boolean preview,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> aim = new LinkedHashMap<>();
        aim.put("to", to);
        return preview
                ? preview(chosen, connection, output)
                : act(Api.path("/api/v1/dead/retry", aim), "are tried again", chosen, connection, output);
    }

    @Command(
            name = "drop",
            mixinStandardHelpOptions = true,
            description = "Drops dead letters; their messages stay. `holtra job undo` reverts it within ten minutes.")
    int drop(
            @ArgGroup(multiplicity = "1") Chosen chosen,
            @Option(names = "--preview", description = "Only count them.") boolean preview,
            @Mixin Connection connection,
            @Mixin Output output) {
        return preview
                ? preview(chosen, connection, output)
                : act("/api/v1/dead/drop", "were dropped", chosen, connection, output);
    }

    private static int preview(Chosen chosen, Connection connection, Output output) {
        JsonNode answer = connection.api().post("/api/v1/dead/preview", chosen.body());
        if (!output.asJson(answer)) {
            Table table = new Table("lane", "outlet", "cause", ">letters");
            for (JsonNode group : answer.path("groups")) {
                table.row(
                        group.path("lane").asString(),
                        group.path("outlet").asString(),
                        group.path("cause").asString(),
                        group.path("count").asLong());
            }
            table.print(output, "There are no such dead letters.");
        }
        return 0;
    }

    private static int act(String path, String done, Chosen chosen, Connection connection, Output output) {
        JsonNode answer = connection.api().post(path, chosen.body());
        int count = answer.path("count").asInt();
        if (!output.asJson(answer)) {
            output.line(count == 0 ? "There was no such dead letter." : count + " " + done + ".");
        }
        return count == 0 ? Holtra.NOT_WELL : 0;
    }
}
