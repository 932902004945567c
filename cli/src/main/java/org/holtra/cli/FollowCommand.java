package org.holtra.cli;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
        name = "follow",
        mixinStandardHelpOptions = true,
        description = "Shows messages and deliveries live, until interrupted.")
final class FollowCommand implements Callable<Integer> {

    @Option(names = "--inlet", description = "Only messages of this inlet.")
    private String inlet;

    @Option(names = "--device", description = "Only messages of this device.")
    private String device;

    @Option(names = "--lane", description = "Only deliveries of this lane, and messages it took.")
    private String lane;

    @Option(names = "--count", description = "Stop after this many messages.")
    private Integer count;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    private int shown;

    @Override
    public Integer call() {
        try (BufferedReader events = new BufferedReader(
                new InputStreamReader(connection.api().stream("/api/v1/live"), StandardCharsets.UTF_8))) {
            String name = "";
            String line = events.readLine();
            while (line != null && (count == null || shown < count)) {
                if (line.startsWith("event:")) {
                    name = line.substring("event:".length()).strip();
                } else if (line.startsWith("data:")) {
                    show(name, JsonTree.parse(line.substring("data:".length()).getBytes(StandardCharsets.UTF_8)));
                }
                line = count == null || shown < count ? events.readLine() : null;
            }
        } catch (IOException e) {
            throw new ApiFailure(Holtra.UNREACHABLE, "The stream broke off: " + e.getMessage());
        }
        if (count != null && shown < count) {
            throw new ApiFailure(Holtra.UNREACHABLE, "The service ended the stream.");
        }
        return 0;
    }

    private void show(String name, JsonNode event) {
        switch (name) {
            case "message" -> message(event);
            case "delivery" -> delivery(event);
            case "missed" ->
                output.line(output.styled(
                        "yellow", "… " + event.path("count").asLong() + " events were missed: too many at once"));
            default -> {}
        }
    }

    private void message(JsonNode message) {
        boolean wanted = (inlet == null || inlet.equals(message.path("inlet").asString()))
                && (device == null || device.equals(message.path("device").asString("")))
                && (lane == null || takenBy(message));
        if (!wanted) {
            return;
        }
        shown++;
        if (output.json()) {
            output.line(message.toString());
            return;
        }
        boolean read = message.path("state").asString().equals("read");
        StringBuilder lanes = new StringBuilder();
        message.path("lanes")
                .forEach(one -> lanes.append(lanes.isEmpty() ? "→ " : ", ")
                        .append(one.path("lane").asString()));
        String fate = read
                ? (lanes.isEmpty() ? "unrouted" : lanes.toString())
                : message.path("state").asString().equals("duplicate")
                        ? "a duplicate"
                        : message.path("state").asString() + ": "
                                + message.path("reason").asString();
        output.line(String.format(
                "%s  %s  %-15s %-10s %-9s %s%s",
                Words.time(message.path("received")),
                message.path("id").asString(),
                message.path("inlet").asString(),
                message.path("device").asString("–"),
                message.path("type").asString("–"),
                read ? (lanes.isEmpty() ? output.styled("faint", fate) : fate) : output.styled("red", fate),
                message.path("simulated").asBoolean() ? output.styled("faint", "  simulated") : ""));
    }

    private boolean takenBy(JsonNode message) {
        for (JsonNode one : message.path("lanes")) {
            if (one.path("lane").asString().equals(lane)) {
                return true;
            }
        }
        return false;
    }

    private void delivery(JsonNode delivery) {
        if (inlet != null
                || device != null
                || (lane != null && !lane.equals(delivery.path("lane").asString()))) {
            return;
        }
        if (output.json()) {
            output.line(delivery.toString());
            return;
        }
        String state = delivery.path("state").asString();
        int attempts = delivery.path("attempts").asInt();
        output.line(
                " ".repeat(14) + delivery.path("message").asString() + "  " + output.styled(Words.style(state), state)
                        + " on " + delivery.path("lane").asString() + (attempts > 1 ? ", attempt " + attempts : ""));
    }
}
