package org.holtra.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "outlet",
        mixinStandardHelpOptions = true,
        description = "The ways out.",
        synopsisSubcommandLabel = "(list | try)")
final class OutletCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the outlets and how they stand.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode outlets = connection.api().get("/api/outlets");
        if (!output.asJson(outlets)) {
            Table table = new Table(
                    "outlet", "kind", "state", "since", "next probe", ">waiting", ">in flight", ">held", "reason");
            for (JsonNode outlet : outlets) {
                table.row(
                        outlet.path("name").asString(),
                        outlet.path("kind").asString(),
                        outlet.path("state").asString(),
                        Words.since(outlet.path("since")),
                        Words.since(outlet.path("nextProbe")),
                        outlet.path("waiting").asLong(),
                        outlet.path("inFlight").asInt(),
                        outlet.path("heldDevices").asInt(),
                        outlet.path("reason").asString(""));
            }
            table.print(output, "There are no outlets. Adopt a setup with: holtra setup adopt FILE");
        }
        return 0;
    }

    @Command(
            name = "try",
            mixinStandardHelpOptions = true,
            description = "Tries a blocked, broken or paused outlet again at once.")
    int tryNow(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode answer = connection
                .api()
                .post("/api/outlets/" + Api.encode(name) + "/try", Api.mapper().createObjectNode());
        if (!output.asJson(answer)) {
            output.line("Outlet " + name + " is tried again.");
        }
        return 0;
    }
}
