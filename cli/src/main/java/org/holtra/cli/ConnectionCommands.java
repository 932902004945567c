package org.holtra.cli;

import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

/** Connections that inlets and outlets share, such as brokers. */
@Command(
        name = "connection",
        mixinStandardHelpOptions = true,
        description = "Connections: what inlets and outlets share, such as a broker.",
        synopsisSubcommandLabel = "(list | show | check | log | look | remove)")
final class ConnectionCommands {

    private static final int LONGEST_PAYLOAD = 60;

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the connections and how they stand.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode all = connection.api().get("/api/v1/connections");
        if (!output.asJson(all)) {
            Table table = new Table("connection", "kind", "address", "state", "since", "used by", "reason");
            for (JsonNode one : all) {
                table.row(
                        one.path("name").asString(),
                        one.path("kind").asString(),
                        one.path("address").asString(),
                        one.at("/status/state").asString(""),
                        Words.since(one.at("/status/since")),
                        users(one),
                        one.at("/status/reason").asString(""));
            }
            table.print(output, "There are no connections. Add one to the setup, under connections.");
        }
        return 0;
    }

    private static String users(JsonNode one) {
        return java.util.stream.Stream.concat(
                        one.path("inlets").valueStream(), one.path("outlets").valueStream())
                .map(JsonNode::asString)
                .collect(Collectors.joining(", "));
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
    int show(
            @Parameters(paramLabel = "CONNECTION", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("connection", name, connection, output).show();
    }

    @Command(
            name = "check",
            mixinStandardHelpOptions = true,
            description = "Checks a connection step by step: address, TLS, sign-in. Leaves nothing behind.")
    int check(
            @Parameters(paramLabel = "CONNECTION", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return Checks.print("/api/v1/connections/" + Api.encode(name) + "/check", connection.api(), output);
    }

    @Command(name = "log", mixinStandardHelpOptions = true, description = "Shows its diary, the newest event last.")
    int log(
            @Parameters(paramLabel = "CONNECTION", description = "Its name.") String name,
            @Mixin DiaryOutput diary,
            @Mixin Connection connection,
            @Mixin Output output) {
        return diary.print("/api/v1/connections/" + Api.encode(name) + "/diary", connection.api(), output);
    }

    @Command(
            name = "look",
            mixinStandardHelpOptions = true,
            description = "Shows what comes over a connection now, such as the topics of a broker. Takes nothing.")
    int look(
            @Parameters(paramLabel = "CONNECTION", description = "Its name.") String name,
            @Option(
                            names = "--within",
                            paramLabel = "FILTER",
                            description = "Only what an inlet with this topic would take.")
                    String within,
            @Option(
                            names = "--for",
                            paramLabel = "TIME",
                            defaultValue = "5s",
                            converter = LengthConverter.class,
                            description = "How long, up to 60s. ${DEFAULT-VALUE} if not given.")
                    Duration time,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> wanted = new HashMap<>();
        wanted.put("within", within == null ? "" : within);
        wanted.put("seconds", time.toSeconds());
        JsonNode look = connection
                .api()
                .post(
                        "/api/v1/connections/" + Api.encode(name) + "/look",
                        Api.mapper().valueToTree(wanted));
        if (!output.asJson(look)) {
            Table table = new Table("topic", ">messages", ">a second", "last");
            look.path("found").forEach(one -> rows(one, look.path("seconds").asDouble(), table));
            table.print(output, "Nothing came in " + time.toSeconds() + " s.");
            if (look.path("beyond").asLong() > 0) {
                output.line(look.path("beyond").asLong() + " messages more came on topics that are too many to show;"
                        + " look within a part of them.");
            }
        }
        return 0;
    }

    private static void rows(JsonNode one, double seconds, Table table) {
        if (!one.path("last").isNull()) {
            table.row(
                    one.path("path").asString(),
                    one.path("messages").asLong(),
                    String.format(
                            java.util.Locale.ROOT, "%.1f", one.path("messages").asLong() / Math.max(seconds, 0.1)),
                    shortened(one.path("last").asString())
                            + (one.path("retained").asBoolean() ? " (retained)" : ""));
        }
        one.path("below").forEach(below -> rows(below, seconds, table));
        if (one.path("notShown").asInt() > 0) {
            table.row(
                    one.path("path").asString() + "/…",
                    "",
                    "",
                    one.path("notShown").asInt() + " levels more");
        }
    }

    private static String shortened(String payload) {
        String line = payload.replaceAll("\\s+", " ");
        return line.length() > LONGEST_PAYLOAD ? line.substring(0, LONGEST_PAYLOAD) + "…" : line;
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes one that nothing uses.")
    int remove(
            @Parameters(paramLabel = "CONNECTION", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("connection", name, connection, output).remove(null);
    }
}
