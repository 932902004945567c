package org.holtra.cli;

import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "device",
        mixinStandardHelpOptions = true,
        description = "The registry of devices.",
        synopsisSubcommandLabel = "(list | set)")
final class DeviceCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the devices.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode devices = connection.api().get("/api/devices");
        if (!output.asJson(devices)) {
            Table table = new Table("device", "model", "last heard", "", "facts");
            for (JsonNode device : devices) {
                table.row(
                        device.path("key").asString(),
                        device.path("model").asString(""),
                        device.path("lastHeard").isNull() ? "unheard" : Words.since(device.path("lastHeard")),
                        device.path("simulated").asBoolean() ? "simulated" : "",
                        device.path("facts").properties().stream()
                                .sorted(Map.Entry.comparingByKey())
                                .map(fact ->
                                        fact.getKey() + "=" + fact.getValue().asString())
                                .collect(Collectors.joining(" ")));
            }
            table.print(output, "There are no devices yet. They appear when an inlet hears them.");
        }
        return 0;
    }

    @Command(
            name = "set",
            mixinStandardHelpOptions = true,
            description = "Says what is known of a device: facts are added or changed one by one.")
    int set(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Parameters(
                            paramLabel = "FACT=VALUE",
                            arity = "0..*",
                            description =
                                    "A fact; numbers, true and false keep their type; an empty value takes the fact away.")
                    Map<String, String> facts,
            @Option(names = "--model", description = "Its model.") String model,
            @Mixin Connection connection,
            @Mixin Output output) {
        Api api = connection.api();
        ObjectNode known = known(api, key);
        ObjectNode changed = (ObjectNode) known.path("facts");
        new TreeMap<>(facts == null ? Map.<String, String>of() : facts).forEach((name, value) -> {
            if (value.isEmpty()) {
                changed.remove(name);
            } else {
                changed.set(name, value(value));
            }
        });
        if (model != null) {
            known.put("model", model);
        }
        JsonNode device = api.put(Api.path("/api/devices/one", Map.of("key", key)), known);
        if (!output.asJson(device)) {
            output.line("Device " + key + " is known by revision "
                    + device.path("revision").asInt() + " of its facts.");
        }
        return 0;
    }

    private static ObjectNode known(Api api, String key) {
        ObjectNode known = Api.mapper().createObjectNode();
        for (JsonNode device : api.get("/api/devices")) {
            if (device.path("key").asString().equals(key)) {
                known.set("model", device.path("model"));
                known.set("facts", device.path("facts"));
                return known;
            }
        }
        known.putObject("facts");
        return known;
    }

    private static JsonNode value(String text) {
        try {
            JsonNode value = Api.mapper().readTree(text);
            return value.isNumber() || value.isBoolean() ? value : Api.mapper().valueToTree(text);
        } catch (JacksonException e) {
            return Api.mapper().valueToTree(text);
        }
    }
}
