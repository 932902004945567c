package org.holtra.cli;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "model",
        mixinStandardHelpOptions = true,
        description = "Models: what devices of the same model share.",
        synopsisSubcommandLabel = "(list | show | codec | attach | remove)")
final class ModelCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the models.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode models = connection.api().get("/api/v1/models");
        if (!output.asJson(models)) {
            Table table = new Table("model", "codec", ">devices", "points", "fields");
            for (JsonNode model : models) {
                table.row(
                        model.path("name").asString(),
                        model.path("codec").asString("none"),
                        model.path("devices").asLong(),
                        String.join(", ", model.path("points").propertyNames()),
                        model.path("fields").properties().stream()
                                .map(field -> field.getKey() + unit(field))
                                .collect(Collectors.joining(", ")));
            }
            table.print(output, "There are no models. A setup has them under `models`.");
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
    int show(
            @Parameters(paramLabel = "MODEL", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("model", name, connection, output).show();
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes one that nothing uses.")
    int remove(
            @Parameters(paramLabel = "MODEL", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("model", name, connection, output).remove(null);
    }

    private static String unit(Map.Entry<String, JsonNode> field) {
        String unit = field.getValue().path("unit").asString("");
        return unit.isEmpty() ? "" : " [" + unit + "]";
    }

    @Command(name = "codec", mixinStandardHelpOptions = true, description = "Prints a model's codec.")
    int codec(
            @Parameters(paramLabel = "MODEL", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        for (JsonNode model : connection.api().get("/api/v1/models")) {
            if (model.path("name").asString().equals(name)) {
                output.line(model.path("source").asString("").stripTrailing());
                return 0;
            }
        }
        throw new ApiFailure(Holtra.REFUSED, "There is no model `" + name + "`.");
    }

    @Command(
            name = "attach",
            mixinStandardHelpOptions = true,
            description = "Sets a model's codec, as a new revision of the setup.")
    int attach(
            @Parameters(paramLabel = "MODEL", description = "Its name; created if it does not exist.") String name,
            @Parameters(paramLabel = "FILE", description = "A script (.js) or a layout (.yaml).") String file,
            @Option(names = "--note", description = "What the change is for.") String note,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        ObjectNode codec = Api.mapper().createObjectNode();
        codec.put("type", CodecCommands.isScript(file) ? "script" : "layout");
        codec.put("source", new String(SetupCommands.read(file), StandardCharsets.UTF_8));
        codec.put("note", note);
        JsonNode adopted = connection.api().put("/api/v1/models/" + Api.encode(name) + "/codec", codec);
        if (!output.asJson(adopted)) {
            output.line("Revision " + adopted.path("revision").asInt() + " is active.");
        }
        return 0;
    }
}
