package org.holtra.cli;

import tools.jackson.databind.JsonNode;

/** Prints the steps of a check of an inlet or outlet. */
final class Checks {

    private Checks() {}

    /** @return the exit code: {@link Holtra#NOT_WELL} where a step failed */
    static int print(String path, Api api, Output output) {
        JsonNode steps = api.post(path, Api.mapper().createObjectNode());
        boolean failed = false;
        for (JsonNode step : steps) {
            failed |= step.path("result").asString().equals("failed");
        }
        if (!output.asJson(steps)) {
            Table table = new Table("step", "result", ">took", "found");
            for (JsonNode step : steps) {
                table.row(
                        step.path("step").asString(),
                        step.path("result").asString(),
                        Words.millis(step.path("micros").asLong()),
                        step.path("told").asString()
                                + (step.path("mend").isNull()
                                        ? ""
                                        : ". " + step.path("mend").asString()));
            }
            table.print(output, "There is nothing to look at.");
            for (JsonNode step : steps) {
                offer(step.path("offer"), output);
            }
        }
        return failed ? Holtra.NOT_WELL : 0;
    }

    /** What a check proposes to set, and what to look at before. */
    private static void offer(JsonNode offer, Output output) {
        if (!offer.isObject()) {
            return;
        }
        output.line(offer.path("act").asString() + "? Look first:");
        offer.path("shows").forEach(line -> output.line("  " + line.asString()));
        offer.path("settings").properties().forEach(setting -> {
            output.line("Then set " + setting.getKey() + ":");
            setting.getValue().asString().lines().forEach(line -> output.line("  " + line));
        });
    }
}
