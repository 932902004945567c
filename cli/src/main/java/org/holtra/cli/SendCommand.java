package org.holtra.cli;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(name = "send", mixinStandardHelpOptions = true, description = "Sends a message to an inlet and prints its id.")
final class SendCommand implements Callable<Integer> {

    @Parameters(index = "0", paramLabel = "INLET", description = "The inlet's name.")
    private String inlet;

    @Parameters(
            index = "1",
            paramLabel = "CONTENT",
            description = "The content, @FILE for a file, or - for standard input.")
    private String content;

    @Option(
            names = "--type",
            defaultValue = "application/json",
            description = "Content type; ${DEFAULT-VALUE} if not given.")
    private String type;

    @Option(
            names = "--times",
            paramLabel = "N",
            defaultValue = "1",
            description = "Send it this many times, one after another; stop at the first that is refused.")
    private int times;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() throws IOException {
        Api api = connection.api();
        byte[] body = bytes();
        String path = "/api/v1/inlets/" + Api.encode(inlet) + "/messages";
        if (times == 1) {
            JsonNode taken = api.post(path, type, body);
            if (!output.asJson(taken)) {
                output.line(
                        taken.path("ignored").asBoolean()
                                ? "Counted and not kept: the inlet ignores it."
                                : taken.path("id").asString());
            }
            return 0;
        }
        for (int taken = 0; taken < times; taken++) {
            try {
                api.post(path, type, body);
            } catch (ApiFailure e) {
                throw new ApiFailure(e.exitCode(), taken + " of " + times + " were taken. " + e.getMessage());
            }
        }
        output.line(times + " were taken.");
        return 0;
    }

    private byte[] bytes() throws IOException {
        if (content.equals("-")) {
            return System.in.readAllBytes();
        }
        if (content.startsWith("@")) {
            try {
                return Files.readAllBytes(Path.of(content.substring(1)));
            } catch (NoSuchFileException e) {
                throw new ApiFailure(2, "There is no file " + content.substring(1) + ".");
            }
        }
        return content.getBytes(StandardCharsets.UTF_8);
    }
}
