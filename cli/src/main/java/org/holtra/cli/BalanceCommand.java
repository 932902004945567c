package org.holtra.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
        name = "balance",
        mixinStandardHelpOptions = true,
        description =
                "The balance of a window of time, of the last hour if nothing is said. Exit code 1 if anything is missing.")
final class BalanceCommand implements Callable<Integer> {

    @Option(
            names = "--last",
            paramLabel = "TIME",
            converter = LengthConverter.class,
            description = "The last stretch of time, such as 30m, 2h or 7d.")
    private Duration last;

    @Option(names = "--from", description = "From this instant on, in RFC 3339.")
    private Instant from;

    @Option(names = "--to", description = "Up to this instant, in RFC 3339.")
    private Instant to;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() {
        Map<String, Object> window = new LinkedHashMap<>();
        window.put("from", last != null ? Instant.now().minus(last) : from);
        window.put("to", to);
        JsonNode balance = connection.api().get(Api.path("/api/v1/balance", window));
        long missing = balance.path("missing").asLong();
        if (!output.asJson(balance)) {
            print(balance, missing);
        }
        return missing == 0 ? 0 : Holtra.NOT_WELL;
    }

    private void print(JsonNode balance, long missing) {
        JsonNode intake = balance.path("intake");
        output.line("From " + Words.dateTime(balance.path("from")) + " to " + Words.dateTime(balance.path("to")));
        output.line(intake.path("acknowledged").asLong() + " acknowledged"
                + term(intake, "parts", " + ", " parts of arrivals") + " = "
                + intake.path("read").asLong() + " read + "
                + intake.path("unreadable").asLong() + " unreadable + "
                + intake.path("unclaimed").asLong() + " unclaimed + "
                + intake.path("duplicates").asLong() + " duplicates"
                + term(intake, "deferred", " + ", " waiting to be read")
                + term(intake, "ignored", " + ", " ignored")
                + term(intake, "whole", " + ", " taken apart")
                + term(intake, "spooled", " + ", " spooled")
                + term(intake, "unacknowledged", " − ", " kept before their senders were answered")
                + term(intake, "missing", " + ", " missing")
                + "; " + intake.path("unrouted").asLong() + " of the messages read are unrouted");
        Table table = new Table(
                "lane",
                ">taken",
                ">delivered",
                ">dead",
                ">dropped",
                ">waiting",
                ">in flight",
                ">held back",
                ">merged",
                ">in memory",
                ">missing");
        for (JsonNode lane : balance.path("lanes")) {
            table.row(
                    lane.path("lane").asString(),
                    lane.path("taken").asLong(),
                    lane.path("delivered").asLong(),
                    lane.path("dead").asLong(),
                    lane.path("dropped").asLong(),
                    lane.path("waiting").asLong(),
                    lane.path("inFlight").asLong(),
                    lane.path("heldBack").asLong(),
                    lane.path("merged").asLong(),
                    lane.path("remembered").asLong(),
                    lane.path("missing").asLong());
        }
        table.print(output, "No lane took anything.");
        output.line(
                missing == 0
                        ? output.styled("green", "Balanced: nothing is missing.")
                        : output.styled("red", missing + " are missing."));
        if (missing != 0) {
            differences(balance);
        }
    }

    /** Which messages they are. */
    private void differences(JsonNode balance) {
        Map<String, Object> window = new LinkedHashMap<>();
        window.put("from", balance.path("from").asString());
        window.put("to", balance.path("to").asString());
        Table table = new Table("message", "received", "lane", "what is wrong");
        for (JsonNode one : connection.api().get(Api.path("/api/v1/balance/differences", window))) {
            table.row(
                    one.path("message").asString(),
                    Words.dateTime(one.path("received")),
                    one.path("lane").asString(""),
                    one.path("what").asString());
        }
        table.print(output, "Which they are is no longer known.");
    }

    private static String term(JsonNode intake, String field, String sign, String words) {
        long count = intake.path(field).asLong();
        return count == 0 ? "" : sign + count + words;
    }
}
