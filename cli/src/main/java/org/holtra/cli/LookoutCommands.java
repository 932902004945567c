package org.holtra.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "lookout",
        mixinStandardHelpOptions = true,
        description = "Lookouts: conditions that raise alarms.",
        synopsisSubcommandLabel = "(list | show | rehearse | remove)")
final class LookoutCommands {

    private static final String PATH = "/api/v1/lookouts";

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists lookouts and their alarms.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode all = connection.api().get(PATH);
        if (!output.asJson(all)) {
            Table table = new Table("lookout", "goes by", ">watched", ">raised", ">in 7 days", "last");
            for (JsonNode one : all) {
                table.row(
                        one.path("name").asString(),
                        one.path("goesBy").asString(),
                        one.path("watched").asInt(),
                        one.path("open").asInt(),
                        one.path("lately").asInt(),
                        Words.dateTime(one.path("last")));
            }
            table.print(output, "Nothing is watched. Put a lookout into the setup; docs/setup.md tells how.");
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
    int show(
            @Parameters(paramLabel = "LOOKOUT", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lookout", name, connection, output).show();
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes one; alarms it raised stay.")
    int remove(
            @Parameters(paramLabel = "LOOKOUT", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("lookout", name, connection, output).remove(null);
    }

    @Command(
            name = "rehearse",
            mixinStandardHelpOptions = true,
            description =
                    "How often a lookout would have raised an alarm over the last day, or another stretch of time.")
    int rehearse(
            @Parameters(paramLabel = "LOOKOUT", description = "Its name.") String name,
            @Option(
                            names = "--setup",
                            paramLabel = "FILE",
                            description = "Use the lookout of this setup file instead of the active one.")
                    Path setup,
            @Option(names = "--device", description = "Of this device only.") String device,
            @Mixin Stretch stretch,
            @Mixin Connection connection,
            @Mixin Output output) {
        ObjectNode wish = Api.mapper().createObjectNode();
        if (setup != null) {
            wish.set("fields", fromFile(name, setup, connection.api()));
        }
        if (stretch.from() != null) {
            wish.put("from", stretch.from().toString());
        }
        if (stretch.until() != null) {
            wish.put("to", stretch.until().toString());
        }
        if (device != null) {
            wish.put("device", device);
        }
        JsonNode answer = connection.api().post(PATH + "/" + Api.encode(name) + "/rehearse", wish);
        if (output.asJson(answer)) {
            return answer.path("problems").isEmpty() ? 0 : Holtra.REFUSED;
        }
        if (!answer.path("problems").isEmpty()) {
            answer.path("problems")
                    .forEach(problem -> output.line(problem.path("what").asString()));
            return Holtra.REFUSED;
        }
        print(name, answer.path("rehearsed"), output);
        return 0;
    }

    private static JsonNode fromFile(String name, Path setup, Api api) {
        try {
            return api.post(
                    "/api/v1/setup/part-of?thing=lookouts&name=" + Api.encode(name),
                    "application/yaml",
                    Files.readAllBytes(setup));
        } catch (IOException e) {
            throw new ApiFailure(Holtra.REFUSED, "The file " + setup + " cannot be read: " + e.getMessage());
        }
    }

    private static void print(String name, JsonNode rehearsed, Output output) {
        int alarms = rehearsed.path("alarms").size();
        output.line("Lookout " + name + " would have looked at "
                + rehearsed.path("messages").asInt() + " messages of "
                + rehearsed.path("watched").asInt() + " it watches, from "
                + Words.dateTime(rehearsed.path("from")) + " to " + Words.dateTime(rehearsed.path("to"))
                + ", and raised "
                + (alarms == 0 ? "no alarm." : alarms + (alarms == 1 ? " alarm:" : " alarms:")));
        if (alarms > 0) {
            Table table = new Table("of", "since", "raised", "cleared", ">furthest", "what");
            for (JsonNode one : rehearsed.path("alarms")) {
                table.row(
                        one.path("key").asString(),
                        Words.dateTime(one.path("since")),
                        Words.dateTime(one.path("raised")),
                        Words.dateTime(one.path("cleared")),
                        one.path("extreme").asString(""),
                        one.path("text").asString());
            }
            table.print(output, "");
        }
        if (rehearsed.path("cut").asBoolean()) {
            output.line("There were more messages than are gone through; the latest count.");
        }
    }
}
