package org.holtra.cli;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
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
        description = "Devices: the registry.",
        subcommands = DeviceChannelsCommand.class,
        synopsisSubcommandLabel = "(list | show | channels | set | claim | bar | unbar | forget | export | import)")
final class DeviceCommands {

    private static final String ONE = "/api/v1/devices/one";
    private static final List<String> KNOWN = List.of("model", "facts", "points", "zone", "installed", "silentAfter");

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the devices.")
    int list(
            @Option(names = "--state", description = "Only those that are unheard, live, silent or barred.")
                    String state,
            @Option(names = "--model", description = "Only those of this model.") String model,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> wanted = new TreeMap<>();
        wanted.put("state", state);
        wanted.put("model", model);
        JsonNode devices = devices(connection.api(), wanted);
        if (!output.asJson(devices)) {
            Table table = new Table("device", "model", "state", "last heard", ">messages", ">missing", "", "facts");
            devices.forEach(device -> row(table, device));
            table.print(
                    output,
                    state == null && model == null
                            ? "There are no devices yet. They appear when an inlet hears them."
                            : "No device is like that.");
        }
        return 0;
    }

    private static void row(Table table, JsonNode device) {
        table.row(
                device.path("key").asString(),
                device.path("model").asString(""),
                device.path("state").asString(),
                Words.since(device.path("lastHeard")),
                device.path("messages").asLong(),
                device.path("missing").asLong(),
                device.path("simulated").asBoolean() ? "simulated" : "",
                facts(device.path("facts")));
    }

    private static String facts(JsonNode facts) {
        return facts.properties().stream()
                .sorted(Map.Entry.comparingByKey())
                .map(fact -> fact.getKey() + "=" + fact.getValue().asString())
                .collect(Collectors.joining(" "));
    }

    @Command(
            name = "show",
            mixinStandardHelpOptions = true,
            description = "Shows a device: facts, state and last known values.")
    int show(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode device = connection.api().get(Api.path(ONE, Map.of("key", key)));
        if (output.asJson(device)) {
            return 0;
        }
        output.line(output.styled("bold", device.path("key").asString()) + "  "
                + device.path("state").asString()
                + (device.path("simulated").asBoolean() ? "  (simulated)" : ""));
        line(output, "model", device.path("model").asString(""));
        line(output, "facts", facts(device.path("facts")));
        device.path("points")
                .properties()
                .forEach(point -> line(
                        output,
                        "point",
                        point.getKey() + " "
                                + point.getValue().path("reference").asString("") + " "
                                + facts(point.getValue().path("facts"))));
        line(output, "zone", device.path("zone").asString(""));
        line(output, "installed", Words.dateTime(device.path("installed")));
        line(
                output,
                "heard",
                device.path("lastHeard").isNull()
                        ? "never"
                        : Words.since(device.path("lastHeard")) + ", "
                                + device.path("messages").asLong() + " messages since "
                                + Words.dateTime(device.path("firstHeard")));
        line(
                output,
                "missing",
                device.path("missing").asLong() + " that never came, by its own numbers; "
                        + device.path("restarts").asLong() + " restarts");
        device.path("shows")
                .properties()
                .forEach(shown -> line(output, shown.getKey(), shown.getValue().asString()));
        line(
                output,
                "came by",
                device.path("gateway").properties().stream()
                        .map(shown -> shown.getKey() + " " + shown.getValue().asString())
                        .collect(Collectors.joining(", ")));
        Table values = new Table("field", ">last known", "at");
        device.path("values")
                .properties()
                .forEach(value -> values.row(
                        value.getKey(),
                        value.getValue().path("value").asString(),
                        Words.dateTime(value.getValue().path("at"))));
        output.line("");
        values.print(output, "No reading of it has come yet.");
        return 0;
    }

    private static void line(Output output, String name, String text) {
        if (!text.isBlank()) {
            output.line(String.format("%-9s %s", name, text));
        }
    }

    @Command(
            name = "set",
            mixinStandardHelpOptions = true,
            description = "Changes facts of a device; other facts stay.")
    int set(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Parameters(
                            paramLabel = "FACT=VALUE",
                            arity = "0..*",
                            description =
                                    "A fact; numbers, true and false keep their type; an empty value takes the fact away.")
                    Map<String, String> facts,
            @Mixin Knowledge more,
            @Mixin Connection connection,
            @Mixin Output output) {
        Api api = connection.api();
        JsonNode device = api.put(Api.path(ONE, Map.of("key", key)), changed(api, key, facts, more));
        if (!output.asJson(device)) {
            output.line("Device " + key + " is known by revision "
                    + device.path("revision").asInt() + " of its facts.");
        }
        return 0;
    }

    @Command(
            name = "claim",
            mixinStandardHelpOptions = true,
            description = "Adds a device whose messages were kept as unclaimed, and reads them again.")
    int claim(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Parameters(paramLabel = "FACT=VALUE", arity = "0..*", description = "Facts.") Map<String, String> facts,
            @Mixin Knowledge more,
            @Mixin Connection connection,
            @Mixin Output output)
            throws InterruptedException {
        Api api = connection.api();
        JsonNode begun =
                api.post(Api.path("/api/v1/devices/claim", Map.of("key", key)), changed(api, key, facts, more));
        return MessageCommands.follow(api, begun, output);
    }

    @Command(
            name = "bar",
            mixinStandardHelpOptions = true,
            description = "Bars a device: its messages are kept and no lane takes them.")
    int bar(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Mixin Connection connection,
            @Mixin Output output) {
        return barred(key, true, connection, output);
    }

    @Command(
            name = "unbar",
            mixinStandardHelpOptions = true,
            description = "Unbars a device: lanes take its messages again.")
    int unbar(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Mixin Connection connection,
            @Mixin Output output) {
        return barred(key, false, connection, output);
    }

    private static int barred(String key, boolean barred, Connection connection, Output output) {
        JsonNode device = connection
                .api()
                .post(
                        Api.path("/api/v1/devices/bar", Map.of("key", key, "barred", barred)),
                        Api.mapper().createObjectNode());
        if (!output.asJson(device)) {
            output.line("Device " + key + " is " + device.path("state").asString() + ".");
        }
        return 0;
    }

    @Command(
            name = "forget",
            mixinStandardHelpOptions = true,
            description =
                    "Takes a device out of the registry. Its messages stay, and it comes back when it is heard where"
                            + " unknown devices are admitted.")
    int forget(
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String key,
            @Mixin Connection connection,
            @Mixin Output output) {
        connection.api().delete(Api.path(ONE, Map.of("key", key)));
        output.line("Device " + key + " is forgotten.");
        return 0;
    }

    @Command(name = "export", mixinStandardHelpOptions = true, description = "Exports the registry as CSV.")
    int export(@Mixin Connection connection, @Mixin Output output) {
        output.out().print(connection.api().text("/api/v1/devices/table"));
        output.out().flush();
        return 0;
    }

    @Command(
            name = "import",
            mixinStandardHelpOptions = true,
            description = "Imports a table as printed by export. Exit code 1 if anything in it is wrong; then nothing"
                    + " is changed.")
    int take(
            @Parameters(paramLabel = "FILE", description = "The table in CSV, or - for standard input.") String file,
            @Option(names = "--dry-run", description = "Show what would change, and change nothing.") boolean dry,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        JsonNode result = connection
                .api()
                .post(Api.path("/api/v1/devices/table", Map.of("dry", dry)), "text/csv", SetupCommands.read(file));
        boolean good = result.path("misfits").isEmpty();
        if (!output.asJson(result)) {
            for (JsonNode misfit : result.path("misfits")) {
                output.line(file + ":" + misfit.path("line").asInt() + " "
                        + misfit.path("column").asString() + ": "
                        + misfit.path("what").asString());
            }
            output.line(
                    good
                            ? (dry ? "Would change " : "Changed ")
                                    + result.path("changed").asInt() + " and enter "
                                    + result.path("entered").asInt() + "."
                            : output.styled("red", "Nothing was changed."));
        }
        return good ? 0 : Holtra.NOT_WELL;
    }

    /** What is said of a device besides facts. */
    static final class Knowledge {
        @Option(names = "--model", description = "Its model.")
        private String model;

        @Option(names = "--zone", description = "Its time zone.")
        private String zone;

        @Option(names = "--installed", description = "When the device was installed (RFC 3339).")
        private String installed;

        @Option(names = "--silent-after", description = "Silent after this long, such as 3h.")
        private String silentAfter;
    }

    private static ObjectNode changed(Api api, String key, Map<String, String> facts, Knowledge more) {
        ObjectNode known = known(api, key);
        ObjectNode changed = (ObjectNode) known.path("facts");
        new TreeMap<>(facts == null ? Map.<String, String>of() : facts).forEach((name, value) -> {
            if (value.isEmpty()) {
                changed.remove(name);
            } else {
                changed.set(name, value(value));
            }
        });
        put(known, "model", more.model);
        put(known, "zone", more.zone);
        put(known, "installed", more.installed);
        put(known, "silentAfter", more.silentAfter);
        return known;
    }

    private static void put(ObjectNode known, String name, String value) {
        if (value != null) {
            known.put(name, value);
        }
    }

    /** Those that fit, of all pages. */
    private static JsonNode devices(Api api, Map<String, Object> wanted) {
        return Pages.all(api, "/api/v1/devices", "devices", wanted);
    }

    private static ObjectNode known(Api api, String key) {
        ObjectNode known = Api.mapper().createObjectNode();
        for (JsonNode device : devices(api, new TreeMap<>(Map.of("search", key)))) {
            if (device.path("key").asString().equals(key)) {
                KNOWN.forEach(name -> known.set(name, device.path(name)));
                return known;
            }
        }
        known.putObject("facts");
        return known;
    }

    private static JsonNode value(String text) {
        try {
            JsonNode value = JsonTree.parse(text.getBytes(StandardCharsets.UTF_8));
            if (value.isNumber() || value.isBoolean()) {
                return value;
            }
        } catch (JacksonException e) {
            // Not JSON, so it is meant as text.
        }
        return Api.mapper().getNodeFactory().stringNode(text);
    }
}
