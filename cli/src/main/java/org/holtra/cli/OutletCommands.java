package org.holtra.cli;

import java.util.HashMap;
import java.util.Locale;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "outlet",
        mixinStandardHelpOptions = true,
        description = "Outlets: where messages are delivered.",
        synopsisSubcommandLabel = "(list | show | check | log | tags | try | open | close | remove)")
final class OutletCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists the outlets and their state.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode outlets = connection.api().get("/api/v1/outlets");
        if (!output.asJson(outlets)) {
            Table table = new Table(
                    "outlet",
                    "kind",
                    "state",
                    "since",
                    "next probe",
                    ">waiting",
                    ">in flight",
                    ">held",
                    ">last day",
                    ">a month",
                    "reason");
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
                        outlet.at("/traffic/dayMessages").asLong(),
                        cost(outlet),
                        outlet.path("reason").asString(""));
            }
            table.print(output, "There are no outlets. Adopt a setup with: holtra setup adopt FILE");
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows its part of the setup file.")
    int show(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("outlet", name, connection, output).show();
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes one that no lane uses.")
    int remove(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("outlet", name, connection, output).remove(null);
    }

    /** What a month costs about, where somebody entered a price. */
    private static String cost(JsonNode outlet) {
        return outlet.path("monthly").isNull()
                ? ""
                : String.format(
                                Locale.ROOT,
                                "%.2f %s",
                                outlet.path("monthly").asDouble(),
                                outlet.at("/price/currency").asString(""))
                        .strip();
    }

    @Command(
            name = "check",
            mixinStandardHelpOptions = true,
            description = "Checks an outlet step by step: address, connection, credential. Sends no message.")
    int check(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return Checks.print("/api/v1/outlets/" + Api.encode(name) + "/check", connection.api(), output);
    }

    @Command(name = "log", mixinStandardHelpOptions = true, description = "Shows its diary, the newest event last.")
    int log(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin DiaryOutput diary,
            @Mixin Connection connection,
            @Mixin Output output) {
        return diary.print("/api/v1/outlets/" + Api.encode(name) + "/diary", connection.api(), output);
    }

    @Command(
            name = "tags",
            mixinStandardHelpOptions = true,
            description = "Counts what became of each series or metric it writes, over the last messages.")
    int tags(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode report = connection.api().get("/api/v1/outlets/" + Api.encode(name) + "/tags");
        if (!output.asJson(report)) {
            Table table = new Table("tag", ">found", ">wanted", ">written", ">refused", ">waiting", "last", "value");
            for (JsonNode tag : report.path("tags")) {
                table.row(
                        tag.path("name").asString(),
                        tag.path("found").asLong(),
                        tag.path("wanted").asLong(),
                        tag.path("written").asLong(),
                        tag.path("refused").asLong(),
                        tag.path("waiting").asLong(),
                        Words.since(tag.path("last")),
                        tag.path("value").isNull()
                                ? ""
                                : tag.path("value").asString(tag.path("value").toString()));
            }
            table.print(
                    output,
                    report.path("known").asBoolean()
                            ? "No tags yet: no message of its lanes' inlets makes one."
                            : "Outlet " + name + " is of a kind that knows no tags; timeseries and sparkplug do.");
            if (report.path("known").asBoolean()) {
                output.line(report.path("messages").asLong() + " messages counted, the oldest "
                        + Words.since(report.path("since"))
                        + (report.path("more").asBoolean() ? "; there are more tags than these" : ""));
            }
        }
        return 0;
    }

    private static int tryDevices(String name, String device, Connection connection, Output output) {
        Map<String, Object> query = new HashMap<>();
        query.put("device", device);
        JsonNode tried = connection
                .api()
                .post(
                        Api.path("/api/v1/outlets/" + Api.encode(name) + "/try-devices", query),
                        Api.mapper().createObjectNode());
        if (!output.asJson(tried)) {
            output.line(
                    tried.path("devices").isEmpty()
                            ? "Outlet " + name + " holds "
                                    + (device == null ? "no device." : "no device " + device + ".")
                            : tried.path("devices").size() + " tried again.");
        }
        return 0;
    }

    @Command(
            name = "try",
            mixinStandardHelpOptions = true,
            description = "Tries a blocked, broken or paused outlet again now, or devices that it holds.")
    int tryNow(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Option(names = "--device", paramLabel = "KEY", description = "A device that it holds.") String device,
            @Option(names = "--devices", description = "All devices that it holds.") boolean devices,
            @Mixin Connection connection,
            @Mixin Output output) {
        if (device != null || devices) {
            return tryDevices(name, device, connection, output);
        }
        JsonNode answer = connection
                .api()
                .post(
                        "/api/v1/outlets/" + Api.encode(name) + "/try",
                        Api.mapper().createObjectNode());
        if (!output.asJson(answer)) {
            output.line("Outlet " + name + " is tried again.");
        }
        return 0;
    }

    @Command(name = "open", mixinStandardHelpOptions = true, description = "Opens one that is closed.")
    int open(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("outlet", name, connection, output).open();
    }

    @Command(
            name = "close",
            mixinStandardHelpOptions = true,
            description = "Closes an outlet: its deliveries wait until it is opened.")
    int close(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        return new SetupPart("outlet", name, connection, output).close();
    }
}
