package org.holtra.cli;

import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;

/** What can be done with any part of the setup. */
final class SetupPart {

    private final String thing;
    private final String name;
    private final Api api;
    private final Output output;

    /** @param thing {@code inlet}, {@code outlet}, {@code lane}, {@code model} or {@code lookout} */
    SetupPart(String thing, String name, Connection connection, Output output) {
        this.thing = thing;
        this.name = name;
        this.api = connection.api();
        this.output = output;
    }

    private String path() {
        return "/api/v1/setup/parts/" + thing + "s/" + Api.encode(name);
    }

    /** Prints it as the setup file has it, and what depends on it. */
    int show() {
        JsonNode part = api.get(path());
        if (!output.json() && part.path("content").isNull()) {
            throw new ApiFailure(Holtra.REFUSED, "There is no " + thing + " `" + name + "`.");
        }
        if (!output.asJson(part)) {
            output.line(part.path("text").asString().stripTrailing());
            String dependents = part.path("dependents")
                    .valueStream()
                    .map(one -> one.path("thing").asString().replaceFirst("s$", "") + " "
                            + one.path("name").asString())
                    .collect(Collectors.joining(", "));
            if (!dependents.isEmpty()) {
                output.line(output.styled("faint", "# used by " + dependents));
            }
        }
        return 0;
    }

    int open() {
        return turn("open", "open");
    }

    int close() {
        return turn("close", "closed");
    }

    private int turn(String verb, String state) {
        JsonNode part = api.post(path() + "/" + verb, Api.mapper().createObjectNode());
        if (!output.asJson(part)) {
            output.line(title() + " is " + state + ", setup revision "
                    + part.path("revision").asInt() + ".");
        }
        return 0;
    }

    /** @param drop its name once more, if what is owed is to be dropped; else null */
    int remove(String drop) {
        String query = drop == null ? "" : "?waiting=drop&confirm=" + Api.encode(drop);
        api.delete(path() + query);
        if (!output.json()) {
            output.line(title() + " is removed. `holtra setup undo` brings it back.");
        }
        return 0;
    }

    private String title() {
        return Character.toUpperCase(thing.charAt(0)) + thing.substring(1) + " " + name;
    }
}
