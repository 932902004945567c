package org.holtra.cli;

import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "job",
        mixinStandardHelpOptions = true,
        description = "Jobs: replays, and dead letters retried or dropped together.",
        synopsisSubcommandLabel = "(list | show | stop | undo)")
final class JobCommands {

    private static final String PATH = "/api/v1/jobs";

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists them, the newest first.")
    int list(@Mixin Limit limit, @Mixin Connection connection, @Mixin Output output) {
        JsonNode all = limit.page(connection, PATH, "jobs", Map.of());
        if (!output.asJson(all)) {
            Table table = new Table("name", "what", "state", ">done", ">of", "begun", "by", "note");
            for (JsonNode one : all.path("jobs")) {
                table.row(
                        one.path("name").asString(),
                        one.path("what").asString(),
                        one.path("state").asString(),
                        one.path("done").asLong(),
                        one.path("expected").isNull()
                                ? ""
                                : one.path("expected").asLong(),
                        Words.dateTime(one.path("begun")),
                        one.path("by").asString(),
                        one.path("note").asString(""));
            }
            table.print(output, "No jobs yet.");
            Limit.more(output, all);
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows a job and its terms.")
    int show(
            @Parameters(paramLabel = "NAME", description = "Its name, such as r3.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode job = find(connection, name);
        if (!output.asJson(job)) {
            Table table = new Table("", "");
            table.row("job", name + ", " + job.path("what").asString());
            table.row("state", job.path("state").asString());
            table.row(
                    "done",
                    job.path("done").asLong()
                            + (job.path("expected").isNull()
                                    ? ""
                                    : " of " + job.path("expected").asLong()));
            table.row(
                    "begun",
                    Words.dateTime(job.path("begun")) + " by " + job.path("by").asString());
            table.row("ended", job.path("ended").isNull() ? "not yet" : Words.dateTime(job.path("ended")));
            job.path("terms").properties().stream()
                    .filter(term -> !term.getValue().isNull())
                    .forEach(term -> table.row(
                            term.getKey(),
                            term.getValue().asString(term.getValue().toString())));
            table.row("note", job.path("note").asString(""));
            table.print(output, "");
        }
        return 0;
    }

    @Command(name = "stop", mixinStandardHelpOptions = true, description = "Stops a job; what is done stays done.")
    int stop(
            @Parameters(paramLabel = "NAME", description = "Its name, such as r3.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode answer = act(connection, name, "cancel");
        if (!output.asJson(answer)) {
            output.line(name + " is " + answer.path("state").asString() + "; "
                    + answer.path("done").asLong() + " were done.");
        }
        return 0;
    }

    @Command(name = "undo", mixinStandardHelpOptions = true, description = "Reverts a drop, within ten minutes.")
    int undo(
            @Parameters(paramLabel = "NAME", description = "Its name, such as r3.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode answer = act(connection, name, "undo");
        if (!output.asJson(answer)) {
            output.line(answer.path("count").asLong() + " were taken back.");
        }
        return 0;
    }

    private static JsonNode act(Connection connection, String name, String verb) {
        String id = find(connection, name).path("id").asString();
        return connection.api().post(PATH + "/" + id + "/" + verb, Api.mapper().createObjectNode());
    }

    private static JsonNode find(Connection connection, String name) {
        return Pages.all(connection.api(), PATH, "jobs", Map.of())
                .valueStream()
                .filter(one -> one.path("name").asString().equals(name))
                .findFirst()
                .orElseThrow(() -> new ApiFailure(
                        Holtra.REFUSED, "There is no job " + name + "; list them with: holtra job list"));
    }
}
