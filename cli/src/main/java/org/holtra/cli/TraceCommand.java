package org.holtra.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(name = "trace", mixinStandardHelpOptions = true, description = "Shows the trace of a message.")
class TraceCommand implements Callable<Integer> {

    @Parameters(index = "0", paramLabel = "ID", description = "The message's id.")
    private String id;

    @Option(names = "--transport", description = "Also show the transport's fields, such as headers.")
    private boolean transport;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() {
        JsonNode trace = connection.api().get("/api/v1/messages/" + Api.encode(id));
        if (!output.asJson(trace)) {
            came(trace);
            read(trace);
            trace.path("lanes").forEach(this::lane);
            trace.path("trials").forEach(trial -> {
                output.line("├ a trial on "
                        + output.styled("bold", trial.path("lane").asString())
                        + ", sent by a person; it settles nothing");
                attempt(trial);
            });
            if (trace.path("lanes").isEmpty()
                    && trace.at("/message/state").asString().equals("read")) {
                output.line("└ no lane looks at its inlet");
            }
        }
        return 0;
    }

    private void transport(String within, JsonNode fields) {
        fields.properties().forEach(field -> {
            String name = within + field.getKey();
            if (field.getValue().isObject()) {
                transport(name + ".", field.getValue());
            } else {
                output.line("│         " + name + ": "
                        + field.getValue().asString(field.getValue().toString()));
            }
        });
    }

    private void came(JsonNode trace) {
        JsonNode message = trace.path("message");
        String mark = message.path("simulated").asBoolean() ? "  (simulated)" : "";
        output.line(output.styled("bold", message.path("id").asString()) + mark);
        output.line("┌ came    " + Words.dateTime(message.path("received")) + " by inlet "
                + message.path("inlet").asString() + " from "
                + trace.at("/came/remote").asString() + ", "
                + message.path("bytes").asInt() + " bytes");
        if (transport) {
            output.line("│         address: " + trace.at("/came/address").asString());
            transport("", trace.at("/came/fields"));
        }
        String text = trace.at("/came/text").asString(null);
        output.line("│         "
                + (text != null ? text : "base64 " + trace.at("/came/base64").asString()));
    }

    private void read(JsonNode trace) {
        JsonNode message = trace.path("message");
        String state = message.path("state").asString();
        if (state.equals("duplicate")) {
            output.line(output.styled(
                    "faint",
                    "└ a duplicate of " + message.path("duplicateOf").asString() + ", and so delivered nowhere"));
            return;
        }
        if (!state.equals("read") && !state.equals("made")) {
            output.line(output.styled(
                    "red", "└ " + state + ": " + message.path("reason").asString()));
            return;
        }
        output.line((state.equals("made") ? "├ made    " : "├ read    ")
                + message.path("type").asString() + " of "
                + message.path("device").asString("no device") + ", event time "
                + Words.dateTime(message.path("eventTime")) + ", setup revision "
                + trace.path("setupRevision").asInt()
                + (trace.path("codec").isString()
                        ? ", decoded by the " + trace.path("codec").asString()
                        : ""));
        if (!message.path("reason").isNull()) {
            output.line("│         "
                    + output.styled("yellow", message.path("reason").asString()));
        }
        if (!trace.at("/meta/envelope").isMissingNode()) {
            output.line("│         data " + trace.path("data"));
        }
        if (!trace.path("madeOf").isEmpty()) {
            output.line("│         of " + trace.path("madeOf").size() + " messages, the first "
                    + trace.at("/madeOf/0").asString());
        }
        for (JsonNode alarm : trace.path("alarms")) {
            boolean cause = alarm.path("cause")
                    .asString("")
                    .equals(trace.at("/message/id").asString());
            output.line("│         " + (cause ? "raised" : "tells of") + " alarm "
                    + alarm.path("number").asLong() + " of lookout "
                    + alarm.path("lookout").asString() + ": "
                    + alarm.path("text").asString() + " ("
                    + alarm.path("state").asString() + ")");
        }
        trace.path("duplicates")
                .forEach(duplicate -> output.line("│         came again " + Words.dateTime(duplicate.path("received"))
                        + (duplicate.path("gateway").isNull()
                                ? ""
                                : " by gateway " + duplicate.path("gateway").asString())
                        + " as " + duplicate.path("id").asString()));
    }

    private void lane(JsonNode lane) {
        String name = lane.path("lane").asString();
        if (!lane.path("picked").asBoolean()) {
            output.line("├ "
                    + output.styled(
                            "faint",
                            name + " did not take it: "
                                    + lane.path("whyNot").asString("the reason is no longer known")));
            return;
        }
        String state = lane.path("state").asString();
        output.line("├ " + output.styled("bold", name) + " took "
                + (lane.path("point").isNull()
                        ? "it"
                        : "point " + lane.path("point").asString()) + " → "
                + lane.path("outlet").asString() + ": "
                + output.styled(Words.style(state), state)
                + (state.equals("waiting") && !lane.path("at").isNull()
                        ? ", next try " + Words.since(lane.path("at"))
                        : ""));
        if (!lane.path("values").asString("").isEmpty()) {
            output.line("│   "
                    + output.styled("faint", "because " + lane.path("values").asString()));
        }
        if (!lane.path("reason").isNull() && !state.equals("delivered")) {
            output.line("│   " + lane.path("reason").asString());
        }
        lane.path("attempts").forEach(this::attempt);
    }

    private void attempt(JsonNode attempt) {
        JsonNode request = attempt.path("request");
        String answered =
                attempt.path("code").isNull() ? "" : " " + attempt.path("code").asString();
        output.line("│   " + attempt.path("number").asInt() + ". " + Words.time(attempt.path("at")) + "  "
                + request.path("summary").asString() + "  →" + answered + " "
                + attempt.path("verdict").asString() + " in "
                + Words.millis(attempt.path("micros").asLong()));
        if (!attempt.path("reason").isNull()) {
            output.line(
                    "│      " + output.styled("yellow", attempt.path("reason").asString()));
        }
        JsonNode batch = request.path("batch");
        if (batch.path("messages").asInt() > 1) {
            output.line("│      number " + batch.path("number").asInt() + " of "
                    + batch.path("messages").asInt() + " messages in one request, "
                    + batch.path("key").asString());
        }
        if (transport) {
            request.path("fields")
                    .properties()
                    .forEach(header -> output.line("│      " + header.getKey() + ": "
                            + header.getValue().asString()));
        }
        output.line("│      sent " + attempt.path("body").asString(""));
        if (!attempt.path("answer").asString("").isEmpty()) {
            output.line("│      came " + attempt.path("answer").asString().strip());
        }
    }
}
