package org.holtra.cli;

import tools.jackson.databind.JsonNode;

/** Opens and closes parts of the setup. */
final class Switching {

    private Switching() {}

    /** @param thing {@code lane}, {@code inlet} or {@code outlet} */
    static int to(String thing, String name, boolean open, Api api, Output output) {
        JsonNode part = api.post(
                "/api/v1/setup/parts/" + thing + "s/" + Api.encode(name) + (open ? "/open" : "/close"),
                Api.mapper().createObjectNode());
        if (!output.asJson(part)) {
            output.line(Character.toUpperCase(thing.charAt(0)) + thing.substring(1) + " " + name + " is "
                    + (open ? "open" : "closed") + ", setup revision "
                    + part.path("revision").asInt() + ".");
        }
        return 0;
    }
}
