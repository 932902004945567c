package org.holtra.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "alarm",
        mixinStandardHelpOptions = true,
        description = "Alarms raised by lookouts.",
        synopsisSubcommandLabel = "(list | show | ack | comment | shelve | unshelve)")
final class AlarmCommands {

    private static final String PATH = "/api/v1/alarms";

    @Command(
            name = "list",
            mixinStandardHelpOptions = true,
            description = "Lists raised alarms; with --all also cleared ones.")
    int list(
            @Option(names = "--all", description = "Include cleared alarms.") boolean all,
            @Option(names = "--lookout", description = "Those of this lookout.") String lookout,
            @Option(names = "--device", description = "Those of this device.") String device,
            @Option(names = "--state", description = "Those that are open, acknowledged, shelved or cleared.")
                    String state,
            @Mixin Limit limit,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> query = new LinkedHashMap<>();
        query.put("lookout", lookout);
        query.put("device", device);
        query.put("state", state);
        JsonNode found = limit.page(connection, PATH, "alarms", query);
        if (!output.asJson(found)) {
            Table table = new Table(">number", "state", "lookout", "of", "since", "cleared", ">furthest", "what");
            for (JsonNode one : found.path("alarms")) {
                boolean cleared = one.path("state").asString().equals("cleared");
                if (all || state != null || !cleared) {
                    table.row(
                            one.path("number").asLong(),
                            one.path("state").asString(),
                            one.path("lookout").asString(),
                            subject(one),
                            Words.dateTime(one.path("since")),
                            Words.dateTime(one.path("cleared")),
                            one.path("extreme").asString(""),
                            one.path("text").asString());
                }
            }
            table.print(output, "No alarm is raised.");
            if (all || state != null) {
                Limit.more(output, found);
            }
        }
        return 0;
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows an alarm and its history.")
    int show(@Parameters(paramLabel = "NUMBER") long number, @Mixin Connection connection, @Mixin Output output) {
        return print(connection.api().get(PATH + "/" + number), output);
    }

    @Command(
            name = "ack",
            mixinStandardHelpOptions = true,
            description = "Acknowledges an alarm: somebody is dealing with it.")
    int ack(
            @Parameters(paramLabel = "NUMBER") long number,
            @Option(names = "--text", description = "The comment.") String text,
            @Mixin Connection connection,
            @Mixin Output output) {
        return act(number, "acknowledge", "text", text, connection, output);
    }

    @Command(name = "comment", mixinStandardHelpOptions = true, description = "Adds a comment to an alarm.")
    int comment(
            @Parameters(paramLabel = "NUMBER") long number,
            @Parameters(paramLabel = "TEXT") String text,
            @Mixin Connection connection,
            @Mixin Output output) {
        return act(number, "comment", "text", text, connection, output);
    }

    @Command(
            name = "shelve",
            mixinStandardHelpOptions = true,
            description =
                    "For a time nobody is told of what its lookout finds there; what is raised still is told of then.")
    int shelve(
            @Parameters(paramLabel = "NUMBER") long number,
            @Option(
                            names = "--for",
                            required = true,
                            paramLabel = "TIME",
                            description = "How long, such as 30m, 8h or 2d.")
                    String span,
            @Mixin Connection connection,
            @Mixin Output output) {
        return act(number, "shelve", "span", span, connection, output);
    }

    @Command(name = "unshelve", mixinStandardHelpOptions = true, description = "Ends the shelving of an alarm.")
    int unshelve(@Parameters(paramLabel = "NUMBER") long number, @Mixin Connection connection, @Mixin Output output) {
        return act(number, "unshelve", "text", null, connection, output);
    }

    private static int act(long number, String what, String field, String value, Connection connection, Output output) {
        Map<String, Object> body = new LinkedHashMap<>();
        if (value != null) {
            body.put(field, value);
        }
        return print(
                connection
                        .api()
                        .post(PATH + "/" + number + "/" + what, Api.mapper().valueToTree(body)),
                output);
    }

    private static int print(JsonNode whole, Output output) {
        if (output.asJson(whole)) {
            return 0;
        }
        JsonNode one = whole.path("alarm");
        output.line("alarm " + one.path("number").asLong() + " of "
                + one.path("lookout").asString() + ": " + subject(one) + ", "
                + one.path("state").asString());
        output.line("  " + one.path("text").asString());
        output.line("  since " + Words.dateTime(one.path("since")) + ", raised " + Words.dateTime(one.path("raised"))
                + (one.path("cleared").isNull() ? "" : ", cleared " + Words.dateTime(one.path("cleared"))));
        if (!one.path("extreme").isNull()) {
            output.line(
                    "  furthest " + one.path("extreme").asString() + " at " + Words.dateTime(one.path("extremeAt")));
        }
        if (!one.path("shelvedUntil").isNull()) {
            output.line("  shelved until " + Words.dateTime(one.path("shelvedUntil")));
        }
        for (JsonNode act : whole.path("acts")) {
            output.line("  " + Words.dateTime(act.path("at")) + " "
                    + act.path("by").asString() + " "
                    + act.path("act").asString()
                    + (act.path("text").isNull() ? "" : ": " + act.path("text").asString()));
        }
        return 0;
    }

    private static String subject(JsonNode one) {
        String of = one.path("device").isNull()
                ? one.path("key").asString()
                : one.path("device").asString();
        return one.path("point").isNull() ? of : of + ", " + one.path("point").asString();
    }
}
