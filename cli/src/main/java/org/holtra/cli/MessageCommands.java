package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "message",
        mixinStandardHelpOptions = true,
        description = "Stored messages.",
        synopsisSubcommandLabel = "(list | show | reread)",
        subcommands = MessageCommands.Show.class)
final class MessageCommands {

    @Command(
            name = "show",
            mixinStandardHelpOptions = true,
            description = "Shows the trace of a message, as `holtra trace` does.")
    static final class Show extends TraceCommand {}

    private static final long LOOK_AGAIN_MILLIS = 200;

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists messages, the newest first.")
    int list(
            @Option(names = "--inlet", description = "Only those of this inlet.") String inlet,
            @Option(names = "--device", description = "Only those of this device.") String device,
            @Option(names = "--lane", description = "Only those that this lane took.") String lane,
            @Option(names = "--type", description = "Only those of this type, such as reading or fault.") String type,
            @Option(
                            names = "--state",
                            description = "Only unreadable, unclaimed, deferred, duplicate, unrouted, waiting, dead or"
                                    + " delivered ones.")
                    String state,
            @Option(
                            names = "--contains",
                            paramLabel = "TEXT",
                            description = "Only those with this text in the content as it came, whatever its case.")
                    String contains,
            @Option(
                            names = "--last",
                            paramLabel = "TIME",
                            defaultValue = "1d",
                            converter = LengthConverter.class,
                            description = "Those of this last stretch of time; ${DEFAULT-VALUE} by default.")
                    Duration last,
            @Mixin Limit limit,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, String> query = new LinkedHashMap<>();
        query.put("inlet", inlet);
        query.put("contains", contains);
        query.put("device", device);
        query.put("lane", lane);
        query.put("type", type);
        query.put("state", state);
        query.put("from", Instant.now().minus(last).toString());
        query.values().removeIf(Objects::isNull);
        JsonNode page = limit.page(connection, "/api/v1/messages", "messages", query);
        if (!output.asJson(page)) {
            Table table = new Table("received", "id", "inlet", "device", "type", "state", "lanes");
            for (JsonNode one : page.path("messages")) {
                table.row(
                        Words.dateTime(one.path("received")),
                        one.path("id").asString(),
                        one.path("inlet").asString(),
                        one.path("device").asString(""),
                        one.path("type").asString(""),
                        one.path("state").asString(),
                        one.path("lanes")
                                .valueStream()
                                .map(lanes -> lanes.path("lane").asString())
                                .collect(Collectors.joining(", ")));
            }
            table.print(output, "No such messages. Send one with: holtra send INLET '{\"hello\": 1}'");
            Limit.more(output, page);
        }
        return 0;
    }

    @Command(
            name = "reread",
            mixinStandardHelpOptions = true,
            description = {
                "Reads messages again, by the setup and the registry of today.",
                "What could not be read or claimed goes where lanes want it now; what was delivered is not delivered"
                        + " again, unless --correct is said."
            })
    int reread(
            @Option(
                            names = "--last",
                            paramLabel = "TIME",
                            converter = LengthConverter.class,
                            description = "Those of this last stretch of time, such as 30m, 2h or 7d; by default 1h.")
                    Duration last,
            @Option(names = "--from", description = "From this instant on, in RFC 3339.") Instant from,
            @Option(names = "--to", description = "Up to this instant, in RFC 3339.") Instant to,
            @Option(names = "--inlet", description = "Only those of this inlet.") String inlet,
            @Option(names = "--device", description = "Only those of this device.") String device,
            @Option(names = "--model", description = "Only those of devices of this model.") String model,
            @Option(
                            names = "--state",
                            description =
                                    "Only those that are read, unreadable, unclaimed or deferred (waiting to be read).")
                    String state,
            @Option(
                            names = "--correct",
                            description = "Deliver again, under a key of its own, what was delivered and reads"
                                    + " differently now.")
                    boolean correct,
            @Option(names = "--dry-run", description = "Only show what would happen.") boolean dry,
            @Mixin Connection connection,
            @Mixin Output output)
            throws InterruptedException {
        Instant end = to == null ? Instant.now() : to;
        Instant start = from != null ? from : end.minus(last == null ? Duration.ofHours(1) : last);
        ObjectNode order = Api.mapper().createObjectNode();
        order.put("from", start.toString());
        order.put("to", end.toString());
        order.put("inlet", inlet);
        order.put("device", device);
        order.put("model", model);
        order.put("state", state);
        order.put("correct", correct);
        order.put("dry", dry);
        Api api = connection.api();
        return follow(api, api.post("/api/v1/rereadings", order), output);
    }

    /** Waits for the end, telling how far it is. Exit code 1 if it ended early. */
    static int follow(Api api, JsonNode begun, Output output) throws InterruptedException {
        JsonNode now = begun;
        while (now.path("ended").isNull()) {
            Thread.sleep(LOOK_AGAIN_MILLIS);
            now = api.get("/api/v1/rereadings/" + now.path("id").asString());
        }
        if (!output.asJson(now)) {
            String would = now.at("/order/dry").asBoolean() ? " (nothing was changed)" : "";
            output.line(now.path("seen").asLong() + " looked at, "
                    + now.path("read").asLong() + " read now, "
                    + now.path("still").asLong() + " still not; "
                    + now.path("picked").asLong() + " new deliveries, "
                    + now.path("corrected").asLong() + " corrections" + would);
            if (!now.path("failure").isNull()) {
                output.line(output.styled(
                        "red", "It ended early: " + now.path("failure").asString()));
            }
        }
        return now.path("failure").isNull() ? 0 : Holtra.NOT_WELL;
    }
}
