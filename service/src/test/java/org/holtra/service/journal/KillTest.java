package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicBoolean;
import org.holtra.service.HoltraApplication;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.standins.desk.Desk;
import org.holtra.standins.desk.DeskServer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

class KillTest {

    private static final int SENDERS = 8;
    private static final int ACKNOWLEDGED_BEFORE_KILL = 1_500;

    @TempDir
    private Path folder;

    @Test
    void afterSigkillUnderLoadEveryAcknowledgedMessageArrives() throws Exception {
        TestDatabase database = TestDatabase.fresh();
        int port = freePort();
        Desk desk = new Desk(InstantSource.system());
        try (DeskServer server = new DeskServer(desk, 0, "desk-token", "board-key")) {
            Process first = start(database, port);
            Client client = ready(port, first);
            furnish(client, server.port());

            Set<String> acknowledged = ConcurrentHashMap.newKeySet();
            AtomicBoolean stop = new AtomicBoolean();
            List<Thread> senders = senders(port, acknowledged, stop);
            Client.await(acknowledged::size, size -> size >= ACKNOWLEDGED_BEFORE_KILL);
            first.destroyForcibly().waitFor();
            stop.set(true);
            for (Thread sender : senders) {
                sender.join();
            }

            Process second = start(database, port);
            try {
                ready(port, second);
                Client.await(
                        () -> client.get("/api/status"),
                        status -> status.path("waiting").asLong() == 0);
                JsonNode balance = client.get("/api/balance");
                assertThat(balance.path("missing").asLong()).isZero();
                Map<String, Integer> received = desk.keys();
                assertThat(received.keySet())
                        .containsAll(acknowledged.stream().map(id -> id + ".k").toList());
                JsonNode lane = balance.at("/lanes/0");
                assertThat(lane.path("delivered").asLong())
                        .isEqualTo(lane.path("taken").asLong());
                assertThat(desk.count().distinct()).isEqualTo(lane.path("taken").asLong());
            } finally {
                second.destroyForcibly().waitFor();
            }
        }
    }

    private static void furnish(Client client, int deskPort) {
        client.save("k-in", Map.of("form", "bearer", "token", "in-token"));
        client.save("k-out", Map.of("form", "bearer", "token", "desk-token"));
        Client.good(client.adopt("""
                inlets:
                  k: {kind: http, at: {path: k, credential: k-in}, device: data.id}
                outlets:
                  k: {kind: http, to: {url: "http://127.0.0.1:%d/orders", credential: k-out, concurrency: 4}}
                lanes:
                  k: {inlets: [k], outlet: k, retry: {first: 100ms, longest: 1s}}
                """.formatted(deskPort)));
    }

    /** Senders that go on until they are told to stop or the service is gone; what was acknowledged, they remember. */
    private static List<Thread> senders(int port, Set<String> acknowledged, AtomicBoolean stop) {
        List<Thread> senders = new ArrayList<>();
        for (int i = 0; i < SENDERS; i++) {
            byte[] body = ("{\"id\":\"device-" + i + "\"}").getBytes();
            senders.add(Thread.ofVirtual().start(() -> {
                Client client = new Client("http://127.0.0.1:" + port, "");
                while (!stop.get()) {
                    try {
                        Client.Answer answer = client.call("POST", "/in/k", body, "Authorization", "Bearer in-token");
                        if (answer.status() == 202) {
                            acknowledged.add(answer.json().path("id").asString());
                        }
                    } catch (UncheckedIOException e) {
                        return; // the service is gone, which is what this test is about
                    }
                }
            }));
        }
        return senders;
    }

    private Process start(TestDatabase database, int port) throws IOException {
        ProcessBuilder builder = new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx512m",
                "-cp",
                System.getProperty("java.class.path"),
                HoltraApplication.class.getName());
        builder.environment()
                .putAll(Map.of(
                        "HOLTRA_PORT", Integer.toString(port),
                        "HOLTRA_DATABASE", database.url(),
                        "HOLTRA_DATABASE_PASSWORD", database.password(),
                        "HOLTRA_KEY_FILE", folder.resolve("key").toString(),
                        "HOLTRA_WELCOME_FILE", folder.resolve("welcome.json").toString()));
        return builder.redirectErrorStream(true)
                .redirectOutput(
                        ProcessBuilder.Redirect.appendTo(folder.resolve("log").toFile()))
                .start();
    }

    private Client ready(int port, Process process) {
        Client anonymous = new Client("http://127.0.0.1:" + port, "");
        Client.await(
                () -> {
                    if (!process.isAlive()) {
                        throw new AssertionError("the service ended: " + log());
                    }
                    try {
                        return anonymous.call("GET", "/api/health", null).status();
                    } catch (UncheckedIOException e) {
                        return 0; // not yet listening
                    }
                },
                status -> status == 200);
        JsonNode welcome = Client.JSON.readTree(folder.resolve("welcome.json"));
        return new Client("http://127.0.0.1:" + port, welcome.path("key").asString());
    }

    private String log() {
        try {
            return Files.readString(folder.resolve("log"));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static int freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0)) {
            return socket.getLocalPort();
        }
    }
}
