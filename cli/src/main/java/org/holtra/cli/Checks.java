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
        }
        return failed ? Holtra.NOT_WELL : 0;
    }
}
