package org.holtra.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "channels",
        mixinStandardHelpOptions = true,
        description = {
            "Shows what a device sends and the fields made of it, or sets channels of its own.",
            "A file of channels is a JSON list: [{\"from\": \"ch1\", \"field\": \"power\", \"factor\": 0.001, \"unit\": \"kW\"}]"
        })
final class DeviceChannelsCommand implements Callable<Integer> {

    private static final String CHANNELS = "/api/v1/devices/channels";

    @Parameters(paramLabel = "DEVICE", description = "Its key.")
    private String key;

    @Option(
            names = "--set",
            paramLabel = "FILE",
            description = "Channels that stand in place of its model's; - for standard input.")
    private String file;

    @Option(names = "--try", paramLabel = "FILE", description = "Shows what channels would make of its last reading.")
    private String tried;

    @Option(names = "--clear", description = "Removes its own channels; those of its model apply.")
    private boolean clear;

    @Option(
            names = "--also",
            paramLabel = "DEVICE",
            split = ",",
            description = "Other devices that get the same channels.")
    private List<String> also = List.of();

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() throws IOException {
        Api api = connection.api();
        if (tried != null) {
            return preview(api);
        }
        return file == null && !clear ? show(api) : set(api);
    }

    private static JsonNode read(String file) throws IOException {
        return JsonTree.parse(file.equals("-") ? System.in.readAllBytes() : Files.readAllBytes(Path.of(file)));
    }

    private int show(Api api) {
        JsonNode sent = api.get(Api.path(CHANNELS, Map.of("key", key)));
        if (output.asJson(sent)) {
            return 0;
        }
        Table places = new Table("it sends", ">last value");
        sent.path("places")
                .properties()
                .forEach(place -> places.row(place.getKey(), place.getValue().asString()));
        places.print(output, "It sent no reading within thirty days.");
        Table channels = new Table("channel", "field", "point", ">factor", "unit", ">min", ">max");
        for (JsonNode one : sent.path("channels")) {
            channels.row(
                    one.path("from").asString(),
                    one.path("field").asString(),
                    one.path("point").asString(""),
                    one.path("factor").asString(""),
                    one.path("unit").asString(""),
                    one.path("min").asString(""),
                    one.path("max").asString(""));
        }
        channels.print(
                output, "No fields are made of it. Set channels with: holtra device channels " + key + " --set FILE");
        if (!sent.path("channels").isEmpty()) {
            output.line(sent.path("ownChannels").asBoolean() ? "These are its own." : "These are its model's.");
        }
        return 0;
    }

    private int preview(Api api) throws IOException {
        JsonNode made = api.post(Api.path(CHANNELS + "/preview", Map.of("key", key)), read(tried));
        if (!output.asJson(made)) {
            Table table = new Table("field", ">sent", ">value", "unit", "note");
            for (JsonNode one : made) {
                table.row(
                        one.path("name").asString(),
                        one.path("sent").asString(""),
                        one.path("value").asString(""),
                        one.path("unit").asString(""),
                        one.path("note").asString(""));
            }
            table.print(output, "The file holds no channels.");
        }
        return 0;
    }

    private int set(Api api) throws IOException {
        ObjectNode wiring = Api.mapper().createObjectNode();
        wiring.putArray("devices").add(key);
        also.forEach(wiring.withArray("devices")::add);
        wiring.set("channels", clear ? Api.mapper().createArrayNode() : read(file));
        JsonNode wired = api.post(CHANNELS, wiring);
        if (!output.asJson(wired)) {
            int changed = wired.path("changed").asInt();
            output.line(changed == 1 ? "1 device was changed." : changed + " devices were changed.");
        }
        return 0;
    }
}
