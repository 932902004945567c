package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Runs the client as a process of its own. */
abstract class AsProcess {

    static TestService service;

    @TempDir
    Path folder;

    record Ran(int exit, String out, String err) {
        JsonNode json() {
            // The service's classes beside these log to the same place when the machine is busy; the shipped client has
            // no log.
            return JsonMapper.shared()
                    .readTree(out.lines()
                            .filter(line -> !line.matches("\\d\\d:\\d\\d:\\d\\d\\.\\d{3} .*"))
                            .collect(Collectors.joining("\n")));
        }
    }

    ProcessBuilder process(Map<String, String> environment, String... arguments) {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-XX:+UseSerialGC",
                "-cp",
                System.getProperty("java.class.path"),
                Holtra.class.getName()));
        command.addAll(List.of(arguments));
        ProcessBuilder builder = new ProcessBuilder(command);
        builder.environment().keySet().removeIf(name -> name.startsWith("HOLTRA"));
        builder.environment().put("XDG_CONFIG_HOME", folder.toString());
        builder.environment().putAll(environment);
        return builder;
    }

    Map<String, String> access() {
        return Map.of("HOLTRA_SERVER", service.address(), "HOLTRA_API_KEY", service.key());
    }

    Ran run(Map<String, String> environment, String input, String... arguments)
            throws IOException, InterruptedException {
        Path out = folder.resolve("out");
        Path err = folder.resolve("err");
        Process process = process(environment, arguments)
                .redirectOutput(out.toFile())
                .redirectError(err.toFile())
                .start();
        process.getOutputStream().write(input.getBytes());
        process.getOutputStream().close();
        assertThat(process.waitFor(180, TimeUnit.SECONDS)).isTrue();
        return new Ran(process.exitValue(), Files.readString(out), Files.readString(err));
    }

    Ran holtra(String... arguments) throws IOException, InterruptedException {
        return run(access(), "", arguments);
    }
}
