package org.holtra.cli;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

/** Calls that an inlet refused, for people. */
final class RefusalOutput {

    @Option(names = "--details", description = "Also show what came with each call; secrets are masked.")
    private boolean details;

    /** @param inlet null for calls to addresses that are no inlet's */
    int print(String inlet, Connection connection, Output output) {
        Map<String, Object> query = new LinkedHashMap<>();
        query.put("inlet", inlet);
        JsonNode refused = connection.api().get(Api.path("/api/v1/refusals", query));
        if (!output.asJson(refused)) {
            List<JsonNode> all = refused.path("refusals").valueStream().toList();
            all.reversed().forEach(one -> call(one, output));
            if (all.isEmpty()) {
                output.line(inlet == null ? "No call went to an address of no inlet." : "No call was refused.");
            } else {
                output.line(counts(refused.path("slips")));
            }
        }
        return 0;
    }

    private void call(JsonNode one, Output output) {
        output.line(Words.dateTime(one.path("at")) + "  " + one.path("code").asString() + "  "
                + output.styled("bold", one.path("slip").asString()) + "  "
                + one.path("address").asString() + "  from "
                + one.path("remote").asString());
        output.line("    " + one.path("text").asString());
        if (details) {
            one.path("fields")
                    .properties()
                    .forEach(field -> output.line("    " + output.styled("faint", field.getKey() + ": ")
                            + field.getValue().asString()));
        }
    }

    private static String counts(JsonNode slips) {
        return "In all: "
                + slips.valueStream()
                        .map(slip -> slip.path("count").asLong() + " "
                                + slip.path("slip").asString())
                        .collect(Collectors.joining(", "));
    }
}
