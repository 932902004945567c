package org.holtra.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Which lane a command is about, and in which form: active, a draft, or as a setup file has it. */
final class EditedLane {

    @Parameters(paramLabel = "LANE", description = "Its name.")
    private String name;

    @Option(
            names = "--setup",
            paramLabel = "FILE",
            description = "Use the lane of this setup file instead of the active one.")
    private Path setup;

    @Option(
            names = "--draft",
            paramLabel = "PERSON",
            arity = "0..1",
            fallbackValue = "",
            description =
                    "Take the draft of the lane that this person keeps in the console; the newest if none is named.")
    private String draft;

    String name() {
        return name;
    }

    /** Puts the lane into a request, unless it is the active one. */
    void into(ObjectNode request, Api api) {
        if (setup != null) {
            request.set("lane", fromFile(api));
        } else if (draft != null) {
            request.set("lane", drafted(api));
        }
    }

    private JsonNode fromFile(Api api) {
        try {
            return api.post(
                    "/api/v1/setup/part-of?thing=lanes&name=" + Api.encode(name),
                    "application/yaml",
                    Files.readAllBytes(setup));
        } catch (IOException e) {
            throw new ApiFailure(Holtra.REFUSED, "The file " + setup + " cannot be read: " + e.getMessage());
        }
    }

    private JsonNode drafted(Api api) {
        for (JsonNode one :
                api.get("/api/v1/setup/parts/lanes/" + Api.encode(name)).path("drafts")) {
            if (draft.isEmpty() || draft.equals(one.path("by").asString())) {
                return one.path("content");
            }
        }
        throw new ApiFailure(Holtra.REFUSED, "There is no draft of lane `" + name + "`.");
    }
}
