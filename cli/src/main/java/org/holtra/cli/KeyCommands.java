package org.holtra.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "key",
        mixinStandardHelpOptions = true,
        description = "API keys for programs.",
        synopsisSubcommandLabel = "(list | make | remove)")
final class KeyCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the keys by name.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode keys = connection.api().get("/api/v1/keys");
        if (!output.asJson(keys)) {
            Table table = new Table("key", "made", "by", "last used");
            for (JsonNode key : keys) {
                table.row(
                        key.path("name").asString(),
                        Words.dateTime(key.path("created")),
                        key.path("createdBy").asString(),
                        Words.since(key.path("lastUsed")));
            }
            table.print(output, "There are no API keys.");
        }
        return 0;
    }

    @Command(name = "make", mixinStandardHelpOptions = true, description = "Creates a key and shows it once.")
    int make(
            @Parameters(paramLabel = "NAME", description = "What it is for.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode made = connection
                .api()
                .post("/api/v1/keys/" + Api.encode(name), Api.mapper().createObjectNode());
        if (!output.asJson(made)) {
            output.line(made.path("key").asString());
        }
        return 0;
    }

    @Command(
            name = "remove",
            mixinStandardHelpOptions = true,
            description = "Removes a key; programs that use it are refused.")
    int remove(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        connection.api().delete("/api/v1/keys/" + Api.encode(name));
        output.line("Key " + name + " is removed.");
        return 0;
    }
}
