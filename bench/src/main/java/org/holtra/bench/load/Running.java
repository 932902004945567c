package org.holtra.bench.load;

import java.io.File;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** A process under load: Holtra's service, or one of the bare servers. */
final class Running implements AutoCloseable {

    private static final List<String> OPTIONS = List.of("-Xmx512m", "-Xmn256m", "-XX:+UseSerialGC");
    private static final HttpClient HTTP =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Process process;
    private final int port;
    private final Path folder;
    private final double startSeconds;
    private String key;

    private Running(Process process, int port, Path folder, double startSeconds) {
        this.process = process;
        this.port = port;
        this.folder = folder;
        this.startSeconds = startSeconds;
    }

    static Running bare(String... arguments) throws IOException {
        int port = freePort();
        List<String> command = new ArrayList<>(List.of(java()));
        command.addAll(OPTIONS);
        command.addAll(List.of("-cp", System.getProperty("java.class.path"), BareServer.class.getName(), arguments[0]));
        command.add(Integer.toString(port));
        command.addAll(List.of(arguments).subList(1, arguments.length));
        Path folder = Files.createTempDirectory("bench-bare");
        return started(new ProcessBuilder(command), port, folder, "/");
    }

    /** @param folder kept from an earlier start, to start on the same data; or null */
    static Running holtra(Database database, Path folder) throws IOException {
        return service("org.holtra.service.HoltraApplication", database, folder, List.of());
    }

    /**
     * The same, with the classes of an earlier start of that folder laid out ahead of time, as the launcher starts it.
     *
     * @param again whether there was one
     */
    static Running holtraAsLaunched(Database database, Path folder, boolean again) throws IOException {
        return service(
                "org.holtra.service.HoltraApplication",
                database,
                folder,
                List.of((again ? "-XX:AOTCache=" : "-XX:AOTCacheOutput=") + folder.resolve("classes.aot")));
    }

    /** A service with the same starters and nothing of its own. */
    static Running empty(Database database) throws IOException {
        return service(EmptyService.class.getName(), database, null, List.of());
    }

    private static Running service(String main, Database database, Path folder, List<String> more) throws IOException {
        Path at = folder == null ? Files.createTempDirectory("bench-holtra") : folder;
        int port = freePort();
        List<String> command = new ArrayList<>(List.of(java()));
        command.addAll(OPTIONS);
        String options = System.getenv("BENCH_SERVICE_OPTIONS");
        if (options != null) {
            command.addAll(List.of(options.split(" ")));
        }
        command.addAll(more);
        // Classes are laid out ahead of time from jars only; what stands in a folder is the bench's own.
        String path = more.isEmpty()
                ? System.getProperty("java.class.path")
                : Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                        .filter(one -> one.endsWith(".jar"))
                        .collect(Collectors.joining(File.pathSeparator));
        command.addAll(List.of("-cp", path, main));
        ProcessBuilder builder = new ProcessBuilder(command);
        builder.environment()
                .putAll(Map.of(
                        "HOLTRA_PORT", Integer.toString(port),
                        "HOLTRA_OUTLETS_REACH", "local",
                        "HOLTRA_DATABASE", database.url(),
                        "HOLTRA_DATABASE_PASSWORD", database.password(),
                        "HOLTRA_FILES",
                                Files.createDirectories(at.resolve("files")).toString(),
                        "HOLTRA_KEY_FILE", at.resolve("key").toString(),
                        "HOLTRA_SPOOL", at.resolve("spool").toString(),
                        "HOLTRA_WELCOME_FILE", at.resolve("welcome.json").toString()));
        Running running = started(builder, port, at, "/api/v1/health");
        if (Files.exists(at.resolve("welcome.json"))) {
            running.key = JSON.readTree(at.resolve("welcome.json")).path("key").asString();
        }
        return running;
    }

    private static Running started(ProcessBuilder builder, int port, Path folder, String path) throws IOException {
        File log = folder.resolve("log").toFile();
        long began = System.nanoTime();
        Process process = builder.redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(log))
                .start();
        while (true) {
            if (!process.isAlive()) {
                throw new IllegalStateException("it ended while starting; see " + log);
            }
            try {
                HTTP.send(
                        HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + port + path))
                                .build(),
                        HttpResponse.BodyHandlers.discarding());
                return new Running(process, port, folder, (System.nanoTime() - began) / 1e9);
            } catch (IOException e) {
                pause(10);
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    static String java() {
        return Path.of(System.getProperty("java.home"), "bin", "java").toString();
    }

    static int freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            return socket.getLocalPort();
        }
    }

    static void pause(long millis) {
        try {
            Thread.sleep(millis);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The API key that its first start made. */
    String key() {
        return key;
    }

    String address() {
        return "http://127.0.0.1:" + port;
    }

    long pid() {
        return process.pid();
    }

    Path folder() {
        return folder;
    }

    double startSeconds() {
        return startSeconds;
    }

    JsonNode get(String path) {
        return call("GET", path, "", "application/json");
    }

    JsonNode call(String method, String path, String body, String type) {
        try {
            HttpResponse<String> answer = HTTP.send(
                    HttpRequest.newBuilder(URI.create(address() + path))
                            .header("Authorization", "Bearer " + key)
                            .header("Content-Type", type)
                            .method(method, HttpRequest.BodyPublishers.ofString(body))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
            if (answer.statusCode() / 100 != 2) {
                throw new IllegalStateException(path + " answered " + answer.statusCode() + ": " + answer.body());
            }
            return JSON.readTree(answer.body().isEmpty() ? "null" : answer.body());
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    void adopt(String yaml) {
        call("PUT", "/api/v1/credentials/bench", "{\"form\":\"bearer\",\"token\":\"bench-token\"}", "application/json");
        call("POST", "/api/v1/setup/adopt?waiting=drop", yaml, "application/yaml");
    }

    void save(String credential, Map<String, String> fields) {
        call("PUT", "/api/v1/credentials/" + credential, JSON.writeValueAsString(fields), "application/json");
    }

    /** Waits until an inlet's connection stands. */
    void awaitConnected(String inlet) {
        while (true) {
            for (JsonNode one : call("GET", "/api/v1/inlets", "", "application/json")) {
                if (one.path("name").asString().equals(inlet)
                        && one.at("/connection/state").asString().equals("connected")) {
                    return;
                }
            }
            pause(50);
        }
    }

    /** What the heap holds after a collection, in megabytes. */
    double liveHeap() throws IOException {
        jcmd("GC.run");
        Matcher matcher = Pattern.compile("used (\\d+)K").matcher(jcmd("GC.heap_info"));
        double used = 0;
        while (matcher.find()) {
            used += Long.parseLong(matcher.group(1)) / 1024.0;
            if (used > 0 && matcher.hitEnd()) {
                break;
            }
        }
        return used;
    }

    /** Memory of the process as the system counts it, in megabytes. */
    double resident() throws IOException {
        return Files.readAllLines(Path.of("/proc/" + process.pid() + "/status")).stream()
                        .filter(line -> line.startsWith("VmRSS:"))
                        .mapToLong(line -> Long.parseLong(line.replaceAll("\\D", "")))
                        .sum()
                / 1024.0;
    }

    private String jcmd(String command) throws IOException {
        Process jcmd = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "jcmd").toString(),
                        Long.toString(process.pid()),
                        command)
                .redirectErrorStream(true)
                .start();
        return new String(jcmd.getInputStream().readAllBytes());
    }

    @Override
    public void close() {
        process.destroy();
        try {
            process.waitFor();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }
}
