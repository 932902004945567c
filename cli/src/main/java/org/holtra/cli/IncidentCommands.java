package org.holtra.cli;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "incident",
        mixinStandardHelpOptions = true,
        description =
                "Spans of time in which an outlet or a device was in trouble: what is wrong in them, and mending it.",
        synopsisSubcommandLabel = "(list | mark | show | mend | report | forget)")
final class IncidentCommands {

    private static final String PATH = "/api/v1/incidents";
    private static final long LOOK_AGAIN_NANOS = 300_000_000;

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists them, the newest first.")
    int list(@Mixin Limit limit, @Mixin Connection connection, @Mixin Output output) {
        JsonNode all = limit.page(connection, PATH, "incidents", Map.of());
        if (!output.asJson(all)) {
            Table table = new Table(">number", "title", "about", "from", "until", "state", "marked by");
            for (JsonNode one : all.path("incidents")) {
                table.row(
                        one.path("number").asLong(),
                        one.path("title").asString(),
                        about(one),
                        Words.dateTime(one.path("since")),
                        Words.dateTime(one.path("until")),
                        one.path("state").asString(),
                        one.path("by").asString());
            }
            table.print(output, "No incident was marked yet. Mark one: holtra incident mark --outlet NAME --last 2h");
            Limit.more(output, all);
        }
        return 0;
    }

    @Command(
            name = "mark",
            mixinStandardHelpOptions = true,
            description = "Records when an outlet or a device was in trouble, and analyses it.")
    int mark(
            @Option(names = "--outlet", description = "The outlet it is about.") String outlet,
            @Option(names = "--device", description = "The device it is about.") String device,
            @Option(names = "--title", description = "What happened, in a few words.") String title,
            @Mixin Stretch stretch,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> mark = new LinkedHashMap<>();
        mark.put("outlet", outlet);
        mark.put("device", device);
        mark.put("title", title);
        mark.put("since", stretch.from());
        mark.put("until", stretch.until() == null ? Instant.now() : stretch.until());
        JsonNode marked = connection.api().post(PATH, Api.mapper().valueToTree(mark));
        print(ended(connection, output, marked), output);
        return 0;
    }

    @Command(
            name = "show",
            mixinStandardHelpOptions = true,
            description = "Shows an incident: findings, possible repairs, and what was done.")
    int show(
            @Parameters(paramLabel = "NUMBER") long number,
            @Option(names = "--again", description = "Run the analysis again.") boolean again,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode one = again
                ? connection
                        .api()
                        .post(PATH + "/" + number + "/look", Api.mapper().createObjectNode())
                : connection.api().get(PATH + "/" + number);
        print(ended(connection, output, one), output);
        return 0;
    }

    @Command(
            name = "mend",
            mixinStandardHelpOptions = true,
            description = "Carries out the chosen repairs and waits for the end.")
    int mend(
            @Parameters(paramLabel = "NUMBER") long number,
            @Option(names = "--read", description = "Read again what could not be read.") boolean read,
            @Option(names = "--retry", description = "Try dead deliveries again.") boolean retry,
            @Option(names = "--take", description = "Deliver messages that no lane took and one would take now.")
                    boolean take,
            @Option(
                            names = "--wrong",
                            split = ",",
                            paramLabel = "REVISION",
                            description = "Deliver corrections of what was sent under these revisions of the setup.")
                    List<Integer> wrong,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> acts = new LinkedHashMap<>();
        acts.put("read", read);
        acts.put("retry", retry);
        acts.put("take", take);
        acts.put("wrong", wrong == null ? List.of() : wrong);
        JsonNode begun = connection
                .api()
                .post(PATH + "/" + number + "/mend", Api.mapper().valueToTree(acts));
        print(ended(connection, output, begun), output);
        return 0;
    }

    @Command(
            name = "report",
            mixinStandardHelpOptions = true,
            description = "Prints a report (HTML): what happened, what was done, what is left.")
    int report(@Parameters(paramLabel = "NUMBER") long number, @Mixin Connection connection, @Mixin Output output) {
        output.line(connection.api().text(PATH + "/" + number + "/report"));
        return 0;
    }

    @Command(
            name = "forget",
            mixinStandardHelpOptions = true,
            description = "Removes an incident that nothing was done about.")
    int forget(@Parameters(paramLabel = "NUMBER") long number, @Mixin Connection connection, @Mixin Output output) {
        connection.api().delete(PATH + "/" + number);
        output.line("Incident " + number + " is forgotten.");
        return 0;
    }

    /** As it stands once nothing is under way; tells how far it is meanwhile. */
    private static JsonNode ended(Connection connection, Output output, JsonNode begun) {
        JsonNode one = begun;
        while (one.path("state").asString().matches("looking|mending")) {
            String note = one.at("/progress/note").asString("");
            output.progress(one.path("state").asString() + " "
                    + one.path("progress").path("done").asLong() + " of "
                    + one.path("progress").path("expected").asLong()
                    + (note.isEmpty() ? "" : ", " + note));
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
            one = connection.api().get(PATH + "/" + one.path("number").asLong());
        }
        output.progress("");
        return one;
    }

    private static String about(JsonNode one) {
        return one.path("outlet").isNull()
                ? "device " + one.path("device").asString()
                : "outlet " + one.path("outlet").asString();
    }

    private static void print(JsonNode one, Output output) {
        if (output.asJson(one)) {
            return;
        }
        output.line("Incident " + one.path("number").asLong() + ": "
                + one.path("title").asString() + " (" + one.path("state").asString() + ")");
        output.line(about(one) + ", from " + Words.dateTime(one.path("since")) + " until "
                + Words.dateTime(one.path("until")));
        JsonNode progress = one.path("progress");
        if (progress.path("state").asString().equals("failed")) {
            output.line(output.styled(
                    "red", "It ended early: " + progress.path("note").asString()));
        }
        boolean mended = !one.path("acted").isNull();
        Table table = mended ? new Table("", ">found", ">mended", ">now") : new Table("", ">found");
        JsonNode now = one.path("findings");
        JsonNode found = mended ? one.path("before") : now;
        JsonNode acted = one.path("acted");
        row(
                table,
                mended,
                "messages",
                found.path("messages").asLong(),
                "",
                now.path("messages").asLong());
        row(
                table,
                mended,
                "arrived",
                found.path("delivered").asLong(),
                "",
                now.path("delivered").asLong());
        row(
                table,
                mended,
                "on their way",
                found.path("waiting").asLong(),
                "",
                now.path("waiting").asLong());
        row(
                table,
                mended,
                "unread",
                found.path("unread").asLong(),
                acted.path("readable").asLong(),
                now.path("unread").asLong());
        row(table, mended, "dead", sum(found, "dead"), sum(acted, "dead"), sum(now, "dead"));
        row(table, mended, "never delivered", sum(found, "unrouted"), sum(acted, "unrouted"), sum(now, "unrouted"));
        if (mended && !one.path("acts").path("wrong").isEmpty()) {
            row(table, true, "corrected", "", sum(acted, "revisions"), "");
        }
        row(table, mended, "never came", missing(found), "", missing(now));
        table.print(output, "");
        if (one.path("state").asString().equals("marked")) {
            proposals(one, output);
        }
        for (JsonNode gap : now.path("missing")) {
            output.line("never came: " + gap.path("device").asString() + ", numbers "
                    + gap.path("first").asLong() + " to " + gap.path("last").asLong());
        }
    }

    private static void row(Table table, boolean mended, String what, Object found, Object acted, Object now) {
        if (mended) {
            table.row(what, found, acted, now);
        } else {
            table.row(what, found);
        }
    }

    private static long sum(JsonNode findings, String what) {
        return findings.path(what).properties().stream()
                .mapToLong(one -> one.getValue().asLong())
                .sum();
    }

    private static long missing(JsonNode findings) {
        return StreamSupport.stream(findings.path("missing").spliterator(), false)
                .mapToLong(gap -> gap.path("last").asLong()
                        - gap.path("first").asLong()
                        + 1
                        - gap.path("late").asLong())
                .sum();
    }

    private static void proposals(JsonNode one, Output output) {
        if (one.path("proposals").isEmpty()) {
            output.line("There is nothing to mend in this span.");
        }
        for (JsonNode proposal : one.path("proposals")) {
            String act = proposal.path("act").asString();
            String option = act.equals("wrong") ? "--wrong REVISION,…" : "--" + act;
            output.line("");
            output.line(output.styled(
                    "bold", "holtra incident mend " + one.path("number").asLong() + " " + option));
            output.line("  " + proposal.path("what").asString());
            output.line("  Order: " + proposal.path("order").asString());
            output.line("  Doubles: " + proposal.path("doubles").asString());
            if (act.equals("wrong")) {
                output.line("  Revisions: "
                        + StreamSupport.stream(one.path("revisions").spliterator(), false)
                                .map(revision -> revision.path("revision").asLong() + " made "
                                        + revision.path("deliveries").asLong())
                                .collect(Collectors.joining(", ")));
            }
        }
    }
}
