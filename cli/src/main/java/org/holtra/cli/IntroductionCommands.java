package org.holtra.cli;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.StringJoiner;
import java.util.concurrent.locks.LockSupport;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "introduction",
        mixinStandardHelpOptions = true,
        description = "Makes devices known at outlets whose destinations refuse those they do not know.",
        synopsisSubcommandLabel =
                "(list | show | plan | step | dry-run | begin | pause | resume | made | compare | remove | import)")
final class IntroductionCommands {

    private static final long LOOK_AGAIN_NANOS = 300_000_000;

    /** Which devices. */
    static final class Choice {

        @Option(names = "--device", paramLabel = "KEY", description = "This device; may be given several times.")
        private List<String> keys;

        @Option(names = "--pattern", paramLabel = "KEYS", description = "Devices whose keys fit, as in 'cs-*'.")
        private String pattern;

        @Option(names = "--where", paramLabel = "CONDITION", description = "Devices that fit a condition over device.")
        private String where;

        @Option(names = "--all", description = "All devices.")
        private boolean all;

        private ObjectNode body() {
            ObjectNode body = Api.mapper().createObjectNode();
            if (keys != null) {
                keys.forEach(body.putArray("keys")::add);
            }
            if (pattern != null) {
                body.put("pattern", pattern);
            }
            if (where != null) {
                body.put("where", where);
            }
            return body;
        }
    }

    private static String at(String outlet, String what) {
        return "/api/v1/outlets/" + Api.encode(outlet) + "/" + what;
    }

    @Command(
            name = "list",
            mixinStandardHelpOptions = true,
            description = "Shows how devices stand at an outlet's destination.")
    int list(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Option(
                            names = "--state",
                            paramLabel = "STATE",
                            description = "waiting, introducing, known, refused or removing.")
                    String state,
            @Mixin Limit limit,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> query = new HashMap<>();
        if (state != null) {
            query.put("state", state);
        }
        JsonNode page = limit.page(connection, at(outlet, "introductions"), "introductions", query);
        if (!output.asJson(page)) {
            Table table = new Table("device", "state", "since", "step", "called there", "id there", "reason");
            for (JsonNode one : page.path("introductions")) {
                table.row(
                        one.path("device").asString(),
                        one.path("state").asString()
                                + (one.path("existed").asBoolean() ? " (existed)" : "")
                                + (one.path("why").isNull()
                                        ? ""
                                        : ": " + one.path("why").asString()),
                        Words.since(one.path("since")),
                        one.path("step").asString(""),
                        one.path("called").asString(""),
                        one.path("id").asString(""),
                        one.path("reason").asString(""));
            }
            table.print(
                    output,
                    page.path("recipe").asBoolean()
                            ? "No device was introduced yet. Introduce all with: holtra introduction begin " + outlet
                                    + " --all"
                            : "Outlet " + outlet
                                    + " has no recipe; say under introduction how devices are made known there.");
            Limit.more(output, page);
            standing(page, output);
        }
        return page.path("standsStill").isNull() ? 0 : Holtra.NOT_WELL;
    }

    private static void standing(JsonNode page, Output output) {
        StringJoiner counts = new StringJoiner(", ");
        page.path("counts").properties().stream()
                .filter(count ->
                        count.getValue().asLong() > 0 && !count.getKey().startsWith("refused:"))
                .forEach(count -> counts.add(count.getValue().asLong() + " " + count.getKey()));
        if (counts.length() > 0) {
            output.line(counts + "; " + page.path("made").asLong() + " made by us");
        }
        if (!page.path("standsStill").isNull()) {
            output.line("Introductions wait: " + page.path("standsStill").asString());
        }
        if (!page.path("paused").isNull()) {
            output.line("Paused by " + page.at("/paused/by").asString() + " " + Words.since(page.at("/paused/since"))
                    + ".");
        }
    }

    @Command(name = "show", mixinStandardHelpOptions = true, description = "Shows how one device stands there.")
    int show(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String device,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode now = plan(outlet, device, connection).path("now");
        if (!output.asJson(now)) {
            if (now.isNull()) {
                output.line("Nobody asked for device " + device + " at " + outlet + " yet.");
            } else {
                state(now, output);
            }
        }
        return 0;
    }

    private static JsonNode plan(String outlet, String device, Connection connection) {
        return connection.api().post(at(outlet, "introductions/plan"), device(device));
    }

    private static ObjectNode device(String key) {
        return Api.mapper().createObjectNode().put("device", key);
    }

    private static void state(JsonNode now, Output output) {
        Table table = new Table("", "");
        table.row("device", now.path("device").asString());
        table.row("state", now.path("state").asString() + " " + Words.since(now.path("since")));
        table.row("next step", now.path("step").asString("none"));
        table.row("called there", now.path("called").asString(""));
        table.row("id there", now.path("id").asString(""));
        table.row("reason", now.path("reason").asString(""));
        table.row("wanted by", now.path("by").asString());
        table.print(output, "");
    }

    @Command(
            name = "plan",
            mixinStandardHelpOptions = true,
            description = "Shows the exact request of each step for one device. Nothing is sent.")
    int plan(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String device,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode plan = plan(outlet, device, connection);
        if (!output.asJson(plan)) {
            for (JsonNode step : plan.path("steps")) {
                output.line(output.styled("bold", step.path("step").asString())
                        + (step.path("isNext").asBoolean() ? "  (next)" : "")
                        + (step.path("right").isNull()
                                ? ""
                                : "  needs the right to " + step.path("right").asString()));
                if (step.path("failure").isNull()) {
                    output.line("  " + step.path("request").asString());
                    body(step.path("body"), output);
                } else {
                    output.line("  cannot be made: " + step.path("failure").asString());
                }
            }
            output.line("Nothing was sent. Make the next step with: holtra introduction step " + outlet + " " + device);
        }
        return 0;
    }

    private static void body(JsonNode body, Output output) {
        if (!body.isNull()) {
            body.asString().lines().forEach(line -> output.line("  " + line));
        }
    }

    @Command(
            name = "step",
            mixinStandardHelpOptions = true,
            description = "Makes the next step for one device, and stops.")
    int step(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Parameters(paramLabel = "DEVICE", description = "Its key.") String device,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode made = connection.api().post(at(outlet, "introductions/step"), device(device));
        if (!output.asJson(made)) {
            output.line(made.path("step").asString("nothing") + ": "
                    + made.path("outcome").asString()
                    + (made.path("reason").isNull()
                            ? ""
                            : ", " + made.path("reason").asString()));
            if (!made.path("request").isNull()) {
                output.line("  " + made.path("request").asString());
                body(made.path("body"), output);
            }
            if (!made.path("answer").isNull()) {
                output.line("  answered:");
                body(made.path("answer"), output);
            }
            output.line(
                    made.at("/now/state").asString("").equals("known")
                            ? "Device " + device + " is known there as "
                                    + made.at("/now/id").asString() + "."
                            : "Next: " + made.at("/now/step").asString("nothing") + ". Have it go on by itself with:"
                                    + " holtra introduction begin " + outlet + " --device " + device);
        }
        return made.at("/now/state").asString("").equals("refused") ? Holtra.NOT_WELL : 0;
    }

    @Command(
            name = "dry-run",
            mixinStandardHelpOptions = true,
            description = "Tells what introducing devices would come to. Changes nothing at the destination.")
    int dryRun(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @ArgGroup(multiplicity = "0..1") Choice choice,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode report = connection.api().post(at(outlet, "introductions/dry-run"), chosen(choice));
        if (!output.asJson(report)) {
            Table counts = new Table("devices", ">count");
            report.path("counts")
                    .properties()
                    .forEach(
                            count -> counts.row(count.getKey(), count.getValue().asLong()));
            counts.print(output, "No device fits.");
            if (!report.path("findings").isEmpty()) {
                Table findings = new Table("device", "called there", "", "reason");
                report.path("findings")
                        .forEach(one -> findings.row(
                                one.path("device").asString(),
                                one.path("name").asString(""),
                                one.path("fate").asString(),
                                one.path("reason").asString("")));
                findings.print(output, "");
            }
            if (report.path("lookedAt").asLong() < report.path("chosen").asLong()) {
                output.line("Looked at the first " + report.path("lookedAt").asLong() + " of "
                        + report.path("chosen").asLong() + ".");
            }
            if (!report.path("monthly").isNull()) {
                output.line("Those that would be created cost "
                        + report.path("monthly").asDouble() + " "
                        + report.path("currency").asString() + " a month.");
            }
            output.line("Nothing was changed there.");
        }
        return 0;
    }

    private static ObjectNode chosen(Choice choice) {
        return choice == null ? Api.mapper().createObjectNode() : choice.body();
    }

    @Command(
            name = "begin",
            mixinStandardHelpOptions = true,
            description = "Introduces devices, and tries again those that were refused. Shows how far it is.")
    int begin(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @ArgGroup(multiplicity = "1") Choice choice,
            @Option(names = "--no-wait", description = "Do not wait for the end.") boolean noWait,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode job = connection.api().post(at(outlet, "introductions"), choice.body());
        return ended(noWait ? job : followed(job, connection, output), output);
    }

    private static JsonNode followed(JsonNode begun, Connection connection, Output output) {
        JsonNode job = begun;
        String told = "";
        while (job.path("state").asString().equals("running")) {
            String note = job.path("note").asString("");
            String now = job.path("done").asLong() + " of "
                    + job.path("expected").asLong() + (note.isEmpty() ? "" : "; " + note);
            if (!now.equals(told)) {
                told = now;
                output.progress(told);
            }
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
            job = connection.api().get("/api/v1/jobs/" + job.path("id").asString());
        }
        output.progress("");
        return job;
    }

    private static int ended(JsonNode job, Output output) {
        if (!output.asJson(job)) {
            output.line("Job " + job.path("name").asString() + " is "
                    + job.path("state").asString() + ": "
                    + job.path("note")
                            .asString(job.path("done").asLong() + " of "
                                    + job.path("expected").asLong()));
        }
        return job.path("note").asString("").contains("refused") ? Holtra.NOT_WELL : 0;
    }

    @Command(
            name = "import",
            mixinStandardHelpOptions = true,
            description = "Enters the devices that the destination has in its registry. Without --go, only shows them.")
    int importDevices(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Option(names = "--model", paramLabel = "MODEL", description = "Of the devices that are entered.")
                    String model,
            @Option(names = "--go", description = "Enter them.") boolean go,
            @Mixin Connection connection,
            @Mixin Output output) {
        ObjectNode body = Api.mapper().createObjectNode().put("dry", !go);
        if (model != null) {
            body.put("model", model);
        }
        JsonNode report = connection.api().post(at(outlet, "introductions/import"), body);
        if (!output.asJson(report)) {
            Table table = new Table("device", "", "id there", "facts");
            report.path("found")
                    .forEach(one -> table.row(
                            one.path("key").asString(),
                            one.path("isKnown").asBoolean() ? "known here" : "new",
                            one.path("id").asString(""),
                            one.path("facts").toString()));
            table.print(output, "There are no devices there.");
            output.line(report.path("there").asLong() + " devices are there, "
                    + report.path("unknown").asLong() + " of them not here yet. "
                    + (go
                            ? report.path("entered").asLong() + " were entered."
                            : "None was entered; --go enters them."));
        }
        return 0;
    }

    @Command(
            name = "pause",
            mixinStandardHelpOptions = true,
            description = "Introduces nothing more at an outlet until it is resumed.")
    int pause(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Mixin Connection connection,
            @Mixin Output output) {
        return act(outlet, "pause", "Introductions at " + outlet + " are paused.", connection, output);
    }

    @Command(
            name = "resume",
            mixinStandardHelpOptions = true,
            description = "Goes on after a pause, and tries again what was refused.")
    int resume(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Mixin Connection connection,
            @Mixin Output output) {
        return act(outlet, "resume", "Introductions at " + outlet + " go on.", connection, output);
    }

    private static int act(String outlet, String act, String told, Connection connection, Output output) {
        JsonNode answer = connection
                .api()
                .post(at(outlet, "introductions/" + act), Api.mapper().createObjectNode());
        if (!output.asJson(answer)) {
            output.line(told);
        }
        return 0;
    }

    @Command(
            name = "made",
            mixinStandardHelpOptions = true,
            description = "Lists what was made at the destination and is there still.")
    int made(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Option(names = "--differing", description = "Only what a comparison found otherwise than we made it.")
                    boolean differing,
            @Mixin Limit limit,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode page =
                limit.page(connection, at(outlet, "made"), "made", differing ? Map.of("differing", true) : Map.of());
        if (!output.asJson(page)) {
            Table table = new Table(
                    "device", "what", "called there", "id there", "made", "by", ">revision", "compared", "differs");
            for (JsonNode one : page.path("made")) {
                StringJoiner differs = new StringJoiner(", ");
                one.path("differs").forEach(difference -> differs.add(difference.asString()));
                table.row(
                        one.path("device").asString(),
                        one.path("what").asString(),
                        one.path("name").asString(""),
                        one.path("id").asString(""),
                        Words.dateTime(one.path("at")),
                        one.path("by").asString(),
                        one.path("revision").asInt(),
                        Words.since(one.path("compared")),
                        differs.toString());
            }
            table.print(output, "Nothing of ours is there.");
            Limit.more(output, page);
        }
        return 0;
    }

    @Command(
            name = "compare",
            mixinStandardHelpOptions = true,
            description = "Compares what was made with what is there now.")
    int compare(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode job =
                connection.api().post(at(outlet, "made/compare"), Api.mapper().createObjectNode());
        ended(followed(job, connection, output), output);
        return 0;
    }

    @Command(
            name = "remove",
            mixinStandardHelpOptions = true,
            description = "Removes what was made there. Without --go, only counts it.")
    int remove(
            @Parameters(paramLabel = "OUTLET", description = "Its name.") String outlet,
            @ArgGroup(multiplicity = "1") Choice choice,
            @Option(names = "--go", description = "Remove it.") boolean go,
            @Mixin Connection connection,
            @Mixin Output output) {
        if (go) {
            JsonNode job = connection.api().post(at(outlet, "made/remove"), choice.body());
            return ended(followed(job, connection, output), output);
        }
        JsonNode count = connection.api().post(at(outlet, "made/count"), choice.body());
        if (!output.asJson(count)) {
            long devices = count.path("devices").asLong();
            output.line(devices + (devices == 1 ? " device" : " devices") + " that we made at " + outlet
                    + " would be removed there. Nothing was yet; --go removes "
                    + (devices == 1 ? "it." : "them."));
        }
        return 0;
    }
}
