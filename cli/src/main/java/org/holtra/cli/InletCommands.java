package org.holtra.cli;

import java.util.List;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "inlet",
        mixinStandardHelpOptions = true,
        description = "Inlets: where messages come from.",
        synopsisSubcommandLabel = "(list | show | propose | check | log | refusals | open | close | remove)")
final class InletCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the inlets.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode inlets = connection.api().get("/api/v1/inlets");
        if (!output.asJson(inlets)) {
            Table table = new Table("inlet", "kind", "state", "address", "credential", ">last hour", "lanes");
            for (JsonNode inlet : inlets) {
                table.row(
                        inlet.path("name").asString(),
                        inlet.path("kind").asString(),
                        inlet.path("state").asString(),
                        (inlet.path("addressIsPath").asBoolean()
                                        ? inlet.path("publicAddress").asString("")
                                        : "")
                                + inlet.path("address").asString(),
                        inlet.path("credential").asString(""),
                        inlet.path("lastHour").asLong(),
                        LaneCommands.joined(inlet.path("lanes")));
            }
            table.print(output, "There are no inlets. Adopt a setup with: holtra setup adopt FILE");
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
    int show(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("inlet", name, connection, output).show();
    }

    @Command(
            name = "propose",
            mixinStandardHelpOptions = true,
            description = "Proposes how to read what comes, by the last message: device, time, payload, parts.")
    int propose(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Option(names = "--one", description = "Each arrival is one message, whatever lists are in it.")
                    boolean one,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode found =
                connection.api().get(Api.path("/api/v1/inlets/" + Api.encode(name) + "/proposal", Map.of("one", one)));
        if (output.asJson(found)) {
            return 0;
        }
        JsonNode proposal = found.path("proposal");
        if (!proposal.path("trouble").isNull()) {
            output.line(
                    "No settings can be proposed: " + proposal.path("trouble").asString() + ".");
            return 0;
        }
        Table table = new Table("setting", "expression", "gives", "why");
        if (!proposal.path("format").isNull()) {
            table.row("format", proposal.path("format").asString(), "", "by its content");
        }
        for (String setting : List.of("parts", "device", "time", "payload", "sequence")) {
            for (JsonNode choice : proposal.path(setting)) {
                table.row(
                        setting,
                        choice.path("expression").asString(),
                        choice.path("value").asString(),
                        choice.path("why").asString()
                                + (choice.path("with").isEmpty() ? "" : " " + choice.path("with")));
            }
        }
        table.print(output, "Nothing in the message looks like a device, a time or a payload.");
        return 0;
    }

    @Command(
            name = "remove",
            mixinStandardHelpOptions = true,
            description = "Removes one. Its messages keep their traces.")
    int remove(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("inlet", name, connection, output).remove(null);
    }

    @Command(
            name = "check",
            mixinStandardHelpOptions = true,
            description =
                    "Checks an inlet step by step: what its kind needs, whether it is open, its last message. Takes no message.")
    int check(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return Checks.print("/api/v1/inlets/" + Api.encode(name) + "/check", connection.api(), output);
    }

    @Command(name = "log", mixinStandardHelpOptions = true, description = "Shows its diary, the newest event last.")
    int log(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin DiaryOutput diary,
            @Mixin Connection connection,
            @Mixin Output output) {
        return diary.print("/api/v1/inlets/" + Api.encode(name) + "/diary", connection.api(), output);
    }

    @Command(
            name = "refusals",
            mixinStandardHelpOptions = true,
            description = "Shows calls that an inlet refused and what their senders did wrong, the newest last. "
                    + "Without a name, calls to addresses of no inlet.")
    int refusals(
            @Parameters(paramLabel = "INLET", arity = "0..1", description = "Its name.") String name,
            @Mixin RefusalOutput refusals,
            @Mixin Connection connection,
            @Mixin Output output) {
        return refusals.print(name, connection, output);
    }

    @Command(name = "open", mixinStandardHelpOptions = true, description = "Opens one that is closed.")
    int open(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("inlet", name, connection, output).open();
    }

    @Command(
            name = "close",
            mixinStandardHelpOptions = true,
            description = "Closes an inlet: it accepts nothing until it is opened; senders are told to retry.")
    int close(
            @Parameters(paramLabel = "INLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("inlet", name, connection, output).close();
    }
}
