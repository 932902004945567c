package org.holtra.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import tools.jackson.databind.JsonNode;

@Command(
        name = "sample",
        mixinStandardHelpOptions = true,
        description = "A small setup with made-up stations, to look around in.",
        synopsisSubcommandLabel = "(show | load | remove)")
final class SampleCommands {

    private static final String SAMPLE = "/api/v1/sample";

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows whether the sample is loaded.")
    int show(@Mixin Connection connection, @Mixin Output output) {
        return tell(connection.api().get(SAMPLE), output);
    }

    @Command(name = "load", mixinStandardHelpOptions = true, description = "Adds the sample to the setup.")
    int load(@Mixin Connection connection, @Mixin Output output) {
        return tell(connection.api().post(SAMPLE, Api.mapper().createObjectNode()), output);
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes the sample and its devices.")
    int remove(@Mixin Connection connection, @Mixin Output output) {
        connection.api().delete(SAMPLE);
        return show(connection, output);
    }

    private static int tell(JsonNode sample, Output output) {
        if (!output.asJson(sample)) {
            Table table = new Table("part of the sample");
            sample.path("parts").forEach(part -> table.row(part.asString()));
            table.print(output, "The sample is not loaded. Load it with: holtra sample load");
        }
        return 0;
    }
}
