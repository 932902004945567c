package org.holtra.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import tools.jackson.databind.JsonNode;

@Command(
        name = "inlet",
        mixinStandardHelpOptions = true,
        description = "The ways in.",
        synopsisSubcommandLabel = "list")
final class InletCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the inlets.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode inlets = connection.api().get("/api/inlets");
        if (!output.asJson(inlets)) {
            Table table = new Table("inlet", "kind", "address", "credential", ">last hour", "lanes");
            for (JsonNode inlet : inlets) {
                table.row(
                        inlet.path("name").asString(),
                        inlet.path("kind").asString(),
                        inlet.path("address").asString(),
                        inlet.path("credential").asString(""),
                        inlet.path("lastHour").asLong(),
                        LaneCommands.joined(inlet.path("lanes")));
            }
            table.print(output, "There are no inlets. Adopt a setup with: holtra setup adopt FILE");
        }
        return 0;
    }
}
