package org.holtra.cli;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
        name = "try",
        mixinStandardHelpOptions = true,
        description = {
            "Runs one message through a lane and shows the exact request, without sending it.",
            "Exit code 1 if the lane does not pick the message, or cannot shape it."
        })
final class LaneTryCommand implements Callable<Integer> {

    @Mixin
    private EditedLane lane;

    @Option(
            names = "--message",
            paramLabel = "ID",
            description = "A stored message; by default the newest that the lane would take.")
    private String message;

    @Option(
            names = "--body",
            paramLabel = "FILE",
            description = "Content to try instead of a stored message; - for standard input.")
    private Path body;

    @Option(names = "--inlet", description = "The inlet it would arrive at; by default the lane's first.")
    private String inlet;

    @Option(
            names = "--fact",
            paramLabel = "NAME=VALUE",
            description = "Assume this fact of the device; empty for a fact that is not known.")
    private Map<String, String> facts;

    @Option(names = "--send", description = "Send it, as a trial; no delivery is changed.")
    private boolean send;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() throws IOException {
        Api api = connection.api();
        ObjectNode request = Api.mapper().createObjectNode();
        lane.into(request, api);
        subject(request, api);
        if (facts != null) {
            ObjectNode supposed = request.putObject("facts");
            facts.forEach((name, value) -> supposed.set(name, typed(value)));
        }
        String path = "/api/v1/lanes/" + Api.encode(lane.name());
        JsonNode tried = api.post(path + "/try", request);
        if (!tried.path("problems").isEmpty()) {
            for (JsonNode problem : tried.path("problems")) {
                output.line(output.styled("red", problem.path("where").asString()) + ": "
                        + problem.path("what").asString());
            }
            return Holtra.REFUSED;
        }
        JsonNode sent = send ? api.post(path + "/trial", request) : null;
        if (!output.asJson(sent == null ? tried : sent)) {
            tell(tried);
            if (sent != null) {
                output.line("Sent as a trial: " + sent.path("verdict").asString()
                        + (sent.path("code").isNull()
                                ? ""
                                : ", answered " + sent.path("code").asString())
                        + ". Its trace: holtra trace " + sent.path("message").asString());
            }
        }
        boolean shaped = tried.path("requests")
                .valueStream()
                .allMatch(one -> one.path("failure").isNull());
        return tried.path("unreadable").isNull() && tried.path("whyNot").isNull() && shaped ? 0 : Holtra.NOT_WELL;
    }

    private void subject(ObjectNode request, Api api) throws IOException {
        if (body != null) {
            byte[] bytes = body.toString().equals("-") ? System.in.readAllBytes() : Files.readAllBytes(body);
            ObjectNode pasted = request.putObject("pasted");
            pasted.put("inlet", inlet == null ? firstInlet(request, api) : inlet);
            pasted.put("body", new String(bytes, StandardCharsets.UTF_8));
            pasted.put("contentType", "application/json");
            return;
        }
        String wanted = message;
        if (wanted == null) {
            JsonNode hits = api.post("/api/v1/lanes/" + Api.encode(lane.name()) + "/hits", request)
                    .path("hits");
            wanted = hits.path("example").asString(hits.path("counter").asString(null));
        }
        if (wanted == null) {
            throw new ApiFailure(
                    Holtra.REFUSED, "No message has come by the lane's inlets yet; give one with --body FILE.");
        }
        request.put("message", wanted);
    }

    private String firstInlet(ObjectNode request, Api api) {
        JsonNode content = request.has("lane")
                ? request.path("lane")
                : api.get("/api/v1/setup/parts/lanes/" + Api.encode(lane.name()))
                        .path("content");
        return content.path("inlets").path(0).asString("");
    }

    private static JsonNode typed(String value) {
        if (value.isEmpty()) {
            return Api.mapper().nullNode();
        }
        return value.matches("true|false|-?\\d+(\\.\\d+)?")
                ? JsonTree.parse(value.getBytes(StandardCharsets.UTF_8))
                : Api.mapper().getNodeFactory().stringNode(value);
    }

    private void tell(JsonNode tried) {
        if (!tried.path("unreadable").isNull()) {
            output.line(output.styled("red", "not read") + "  "
                    + tried.path("unreadable").asString());
            return;
        }
        JsonNode subject = tried.path("subject");
        output.line("message  " + subject.path("id").asString("as pasted") + "  of "
                + subject.at("/device/key").asString("no device"));
        boolean picked = tried.path("whyNot").isNull();
        output.line(
                picked
                        ? output.styled("green", "picked")
                        : output.styled("yellow", "not picked") + "  "
                                + tried.path("whyNot").asString());
        if (!tried.path("explanation").isNull()) {
            explain(tried.path("explanation"), 1);
        }
        if (!tried.path("becomes").isNull()) {
            output.line("memory   " + tried.path("becomes").asString());
        }
        for (JsonNode warning : tried.path("warnings")) {
            output.line(output.styled("yellow", "warning") + "  " + warning.asString());
        }
        for (JsonNode request : tried.path("requests")) {
            output.line("");
            if (!request.path("point").isNull()) {
                output.line(
                        output.styled("bold", "point " + request.path("point").asString()));
            }
            if (!request.path("failure").isNull()) {
                output.line(output.styled("red", "cannot be shaped") + "  at "
                        + request.path("failedAt").asString() + ": "
                        + request.path("failure").asString());
                continue;
            }
            output.line(request.path("summary").asString(""));
            request.path("fields")
                    .properties()
                    .forEach(field ->
                            output.line(field.getKey() + ": " + field.getValue().asString()));
            output.line("");
            output.line(request.path("text").asString(request.path("base64").asString("")));
        }
    }

    private void explain(JsonNode part, int depth) {
        String value = part.path("whyNone").isNull()
                ? part.path("value").asString()
                : output.styled("yellow", part.path("whyNone").asString());
        output.line("  ".repeat(depth) + part.path("source").asString() + "  =  " + value);
        for (JsonNode inner : part.path("parts")) {
            explain(inner, depth + 1);
        }
    }
}
