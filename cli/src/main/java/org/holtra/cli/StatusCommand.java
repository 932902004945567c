package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import tools.jackson.databind.JsonNode;

@Command(
        name = "status",
        mixinStandardHelpOptions = true,
        description =
                "How things stand. Exit code 1 if something is wrong: an outlet does not flow, or there is trouble of Holtra's own.")
final class StatusCommand implements Callable<Integer> {

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    /** Counting takes so long on a busy machine that a count is some seconds old. */
    private static final Duration OLD = Duration.ofSeconds(3);

    @Override
    public Integer call() {
        JsonNode status = connection.api().getSoon("/api/v1/status");
        boolean well = status.path("stopped").isEmpty()
                && status.path("troubles").isEmpty()
                && !status.path("databaseAway").asBoolean();
        if (!output.asJson(status)) {
            output.line("Holtra " + status.path("version").asString() + ", setup revision "
                    + status.path("setupRevision").asInt() + ", up since "
                    + Words.dateTime(status.path("started")));
            output.line(status.path("inlets").asInt() + " inlets, "
                    + status.path("lanes").asInt() + " lanes, "
                    + status.path("outlets").asInt() + " outlets");
            output.line(
                    status.path("databaseAway").asBoolean()
                            ? "how many deliveries wait or are dead is not known while the database is away"
                            : status.path("waiting").asLong() + " deliveries wait, "
                                    + status.path("dead").asLong() + " are dead" + counted(status));
            JsonNode scripts = status.path("scripts");
            if (scripts.isObject()) {
                output.line("script codecs run "
                        + (scripts.path("network").asBoolean() ? "without a network" : "with a network") + " and "
                        + (scripts.path("user").asBoolean() ? "as a user of their own" : "as the service's own user"));
            }
            for (JsonNode spool : status.path("spools")) {
                if (spool.path("messages").asLong() > 0) {
                    output.line(output.styled(
                            "yellow",
                            spool.path("messages").asLong() + " messages are spooled on node "
                                    + spool.path("node").asString() + ", the oldest since "
                                    + Words.dateTime(spool.path("oldest"))));
                }
            }
            if (status.path("nodes").size() > 1) {
                output.line(status.path("nodes").size() + " nodes are at work");
            }
            for (JsonNode trouble : status.path("troubles")) {
                if (!trouble.path("what").asString().equals("outlet")) {
                    output.line(output.styled("red", trouble.path("text").asString()));
                }
            }
            for (JsonNode stopped : status.path("stopped")) {
                output.line(output.styled("red", "outlet " + stopped.asString()));
            }
        }
        return well ? 0 : Holtra.NOT_WELL;
    }

    /** When it was counted, unless that is a moment ago. */
    private static String counted(JsonNode status) {
        if (!status.hasNonNull("countedAt")) {
            return ""; // a service that is older than this client
        }
        Instant at = Instant.parse(status.path("countedAt").asString());
        return Duration.between(at, Instant.now()).compareTo(OLD) < 0
                ? ""
                : ", as counted at " + Words.dateTime(status.path("countedAt"));
    }
}
