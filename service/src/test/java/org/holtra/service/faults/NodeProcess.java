package org.holtra.service.faults;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.ServerSocket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;

/** The service as a process of its own, which can be killed and stopped. */
final class NodeProcess {

    /** On a busy machine, under load. */
    private static final Duration START = Duration.ofMinutes(10);

    private final String name;
    private final Path folder;
    private final TestDatabase database;
    private final int port;
    private int heapMegabytes = 512;
    private Process process;

    /** @param folder shared by all nodes, for the key they seal credentials with */
    NodeProcess(String name, Path folder, TestDatabase database) {
        this.name = name;
        this.folder = folder;
        this.database = database;
        try (ServerSocket socket = new ServerSocket(0)) {
            port = socket.getLocalPort();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** How large its heap may be from the next start on. */
    void setHeap(int megabytes) {
        heapMegabytes = megabytes;
    }

    String address() {
        return "http://127.0.0.1:" + port;
    }

    void start() {
        ProcessBuilder builder = new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx" + heapMegabytes + "m",
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                NodeWithItsOwnClock.class.getName());
        builder.environment()
                .putAll(Map.of(
                        "HOLTRA_OUTLETS_REACH",
                        "local",
                        NodeWithItsOwnClock.CLOCK,
                        folder.resolve("clock-" + name).toString(),
                        "HOLTRA_NODE",
                        name,
                        "HOLTRA_PORT",
                        Integer.toString(port),
                        "HOLTRA_DATABASE",
                        database.url(),
                        "HOLTRA_DATABASE_PASSWORD",
                        database.password(),
                        "HOLTRA_KEY_FILE",
                        folder.resolve("key").toString(),
                        "HOLTRA_SPOOL",
                        folder.resolve("spool-" + name).toString(),
                        "HOLTRA_WELCOME_FILE",
                        folder.resolve("welcome.json").toString()));
        builder.environment().put("LOGGING_LEVEL_ORG_HOLTRA", "info");
        try {
            process = builder.redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.appendTo(
                            folder.resolve("log-" + name).toFile()))
                    .start();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Sets its own clock so many seconds apart from the machine's, now or when it starts. */
    void setClock(int seconds) {
        try {
            Files.writeString(folder.resolve("clock-" + name), Integer.toString(seconds));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Waits until it answers. */
    Client ready() {
        try {
            answering();
        } catch (AssertionError e) {
            throw new AssertionError("node " + name + " does not answer; its log ends: " + tail(), e);
        }
        try {
            String welcome = Files.readString(folder.resolve("welcome.json"));
            return new Client(
                    address(), Client.JSON.readTree(welcome).path("key").asString());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void answering() {
        Client anonymous = new Client(address(), "");
        Client.await(
                () -> {
                    if (!process.isAlive()) {
                        throw new AssertionError("it ended");
                    }
                    try {
                        return anonymous.call("GET", "/api/v1/health", null).status();
                    } catch (UncheckedIOException e) {
                        return 0; // not yet listening
                    }
                },
                status -> status == 200,
                START);
    }

    String tail() {
        List<String> told = log().lines()
                .filter(line -> line.matches("\\d\\d:\\d\\d.*") && !line.contains("Failed to validate connection"))
                .toList();
        return String.join("\n", told.subList(Math.max(0, told.size() - 60), told.size()));
    }

    /** What its threads are doing. */
    String threads() {
        Path tool = Path.of(System.getProperty("java.home"), "bin", "jstack");
        try {
            Process dump = new ProcessBuilder(tool.toString(), Long.toString(process.pid()))
                    .redirectErrorStream(true)
                    .start();
            return new String(dump.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    String log() {
        try {
            return Files.readString(folder.resolve("log-" + name));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    void kill() {
        try {
            process.destroyForcibly().waitFor();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Stops it where it is, as a machine that is paused does; or lets it go on. */
    void freeze(boolean frozen) {
        run("kill", frozen ? "-STOP" : "-CONT", Long.toString(process.pid()));
    }

    /** Lets no file of it grow beyond so many bytes, as on a disk that is full; a negative number lifts that. */
    void limitFiles(long bytes) {
        String soft = bytes < 0 ? "unlimited" : Long.toString(bytes);
        run("prlimit", "--pid", Long.toString(process.pid()), "--fsize=" + soft + ":unlimited");
    }

    private static void run(String... command) {
        try {
            int code = new ProcessBuilder(command).inheritIO().start().waitFor();
            if (code != 0) {
                throw new IllegalStateException(String.join(" ", command) + " ended with " + code);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
