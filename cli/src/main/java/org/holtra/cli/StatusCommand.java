package org.holtra.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import tools.jackson.databind.JsonNode;

@Command(
        name = "status",
        mixinStandardHelpOptions = true,
        description = "How things stand. Exit code 1 if an outlet does not flow.")
final class StatusCommand implements Callable<Integer> {

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() {
        JsonNode status = connection.api().get("/api/status");
        boolean flows = status.path("stopped").isEmpty();
        if (!output.asJson(status)) {
            output.line("Holtra " + status.path("version").asString() + ", setup revision "
                    + status.path("setupRevision").asInt() + ", up since "
                    + Words.dateTime(status.path("started")));
            output.line(status.path("inlets").asInt() + " inlets, "
                    + status.path("lanes").asInt() + " lanes, "
                    + status.path("outlets").asInt() + " outlets");
            output.line(status.path("waiting").asLong() + " deliveries wait, "
                    + status.path("dead").asLong() + " are dead");
            for (JsonNode stopped : status.path("stopped")) {
                output.line(output.styled("red", "outlet " + stopped.asString()));
            }
        }
        return flows ? 0 : Holtra.NOT_WELL;
    }
}
