package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "rehearse",
        mixinStandardHelpOptions = true,
        description = {
            "Runs a lane over messages of the past and tells what it would do otherwise than the active lane.",
            "Nothing is sent. Exit code 1 if anything would be otherwise."
        })
final class LaneRehearseCommand implements Callable<Integer> {

    private static final long LOOK_AGAIN_MILLIS = 200;
    private static final Map<String, String> WORDS = Map.of(
            "gained", "taken now",
            "lost", "taken no more",
            "changed", "other content",
            "failing", "cannot be shaped");

    @Mixin
    private EditedLane lane;

    @Option(names = "--count", paramLabel = "N", description = "The last N messages.")
    private Long count;

    @Option(
            names = "--last",
            paramLabel = "TIME",
            converter = LengthConverter.class,
            description = "Those of this last stretch of time, such as 30m, 2h or 7d; by default 1d.")
    private Duration last;

    @Option(names = "--from", description = "From this instant on, in RFC 3339.")
    private Instant from;

    @Option(names = "--to", description = "Up to this instant, in RFC 3339.")
    private Instant to;

    @Option(
            names = "--facts",
            paramLabel = "then|now",
            defaultValue = "now",
            description =
                    "Use the facts of devices as they were then, or as they are now; ${DEFAULT-VALUE} by default.")
    private String facts;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() throws InterruptedException {
        Api api = connection.api();
        ObjectNode order = Api.mapper().createObjectNode();
        lane.into(order, api);
        order.put("facts", facts);
        if (count != null) {
            order.put("last", count);
        }
        if (from != null || last != null) {
            order.put("from", (from != null ? from : Instant.now().minus(last)).toString());
        }
        if (to != null) {
            order.put("to", to.toString());
        }
        JsonNode now = api.post("/api/v1/lanes/" + Api.encode(lane.name()) + "/rehearsals", order);
        boolean watched = System.console() != null && !output.json();
        while (now.path("ended").isNull()) {
            Thread.sleep(LOOK_AGAIN_MILLIS);
            now = api.get("/api/v1/rehearsals/" + now.path("id").asString());
            if (watched) {
                output.out()
                        .print("\r" + now.at("/counts/looked").asLong() + " of "
                                + now.path("of").asLong() + "  ");
                output.out().flush();
            }
        }
        if (watched) {
            output.out().print("\r");
        }
        if (!output.asJson(now)) {
            tell(now);
        }
        JsonNode counts = now.path("counts");
        JsonNode memory = now.path("memory");
        boolean remembersAlike = memory.isNull()
                || memory.path("same").asBoolean()
                || counts.path("takes").asLong() == 0;
        boolean same = counts.path("gained").asLong()
                        + counts.path("lost").asLong()
                        + counts.path("changed").asLong()
                        + counts.path("failing").asLong()
                == 0;
        return same && remembersAlike && now.path("stopped").isNull() ? 0 : Holtra.NOT_WELL;
    }

    private void remembered(JsonNode memory) {
        output.line("Its memory made " + memory.path("made").asLong() + " messages of "
                + memory.path("merged").asLong()
                + ", let " + memory.path("passed").asLong() + " go as they are ("
                + memory.path("late").asLong() + " of them late), held back "
                + memory.path("heldBack").asLong() + ", and has "
                + memory.path("open").asLong() + " still"
                + (memory.path("madeThen").isNull()
                        ? ""
                        : "; the active lane made " + memory.path("madeThen").asLong()));
        if (!memory.path("same").asBoolean()) {
            output.line("It remembers otherwise than the active lane, so contents are not compared.");
        }
    }

    private void tell(JsonNode rehearsal) {
        JsonNode counts = rehearsal.path("counts");
        output.line(counts.path("looked").asLong() + " messages looked at, "
                + counts.path("unreadable").asLong() + " unreadable; the active lane took "
                + counts.path("took").asLong() + ", this one takes "
                + counts.path("takes").asLong() + "; nothing was sent");
        if (!rehearsal.path("memory").isNull()) {
            remembered(rehearsal.path("memory"));
        }
        Table table = new Table(">count", "difference");
        for (String type : new String[] {"gained", "lost", "changed", "failing"}) {
            table.row(counts.path(type).asLong(), WORDS.get(type));
        }
        table.row(counts.path("same").asLong(), "the same");
        table.print(output, "");
        for (JsonNode example : rehearsal.path("examples")) {
            output.line("");
            output.line(output.styled("bold", WORDS.get(example.path("type").asString())) + "  "
                    + example.path("message").asString() + "  of "
                    + example.path("device").asString("no device")
                    + (example.path("point").isNull()
                            ? ""
                            : ", point " + example.path("point").asString()));
            if (!example.path("why").isNull()) {
                output.line("  " + example.path("why").asString());
            }
            for (JsonNode one : example.path("differences")) {
                output.line("  " + one.path("field").asString() + ": "
                        + one.path("was").asString("nothing") + "  >  "
                        + one.path("now").asString("nothing"));
            }
        }
        if (!rehearsal.path("stopped").isNull()) {
            output.line(output.styled(
                    "red", "It ended early: " + rehearsal.path("stopped").asString()));
        }
    }
}
