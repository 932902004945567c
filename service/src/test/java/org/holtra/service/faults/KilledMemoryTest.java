package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Collectors;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/**
 * The same messages go to two services at once, of which one is killed at random. What lanes with memory and lookouts make of
 * them is the same, byte for byte.
 */
@Tag("long")
class KilledMemoryTest {

    private static final int SECONDS = 36;
    private static final int KILLS = 2;

    /** Longer than any machine takes to start the service again: what is kept back meanwhile must not come too late. */
    private static final String LONG = "30m";

    private static final List<String> DEVICES = List.of("a", "b", "c");
    private static final String SETUP = """
            inlets:
              i: {kind: http, at: {path: i, credential: c}, device: data.id, time: data.at, duplicates: {same: data.n, within: 5m}}
            outlets:
              o: {kind: http, to: {url: "%1$s"}}
            lanes:
              downsample:
                inlets: [i]
                memory: {lateness: %2$s, downsample: {every: 10s, fields: {t: mean, n: count}, others: last}}
                outlet: o
                shape: {path: /downsample, body: {id: "${device.key}", t: "${data.t}", n: "${data.n}", at: "${meta.eventTime}"}}
              increase:
                inlets: [i]
                memory: {lateness: %2$s, increase: {of: {count: increase}, per: message}}
                outlet: o
                shape: {path: /increase, body: {id: "${device.key}", increase: "${data.increase}", at: "${meta.eventTime}"}}
              join:
                inlets: [i]
                memory: {lateness: %2$s, join: {fields: [even, odd], within: 4s}}
                outlet: o
                shape: {path: /join, body: {id: "${device.key}", even: "${default(data.even, -1)}", odd: "${default(data.odd, -1)}"}}
              changed:
                inlets: [i]
                memory: {lateness: %2$s, changed: {by: {t: 1.5}}}
                outlet: o
                shape: {path: /changed, body: {id: "${device.key}", t: "${data.t}"}}
              alarms:
                inlets: [holtra]
                pick: data.alarm == 'frost'
                outlet: o
                shape: {path: /alarms, body: {id: "${device.key}", state: "${data.state}", since: "${data.since}", at: "${data.at}", extreme: "${data.extreme}"}}
            lookouts:
              frost: {inlets: [i], value: data.t, below: {on: -1, off: 1}, hold: 2s, lateness: %2$s}
            """;

    @TempDir
    private Path folder;

    private final Random random = new Random(11);
    private final HttpClient http = HttpClient.newHttpClient();
    private final List<NodeProcess> nodes = new ArrayList<>();
    private final List<Receiver> receivers = new ArrayList<>();

    @AfterEach
    void tearDown() {
        nodes.forEach(NodeProcess::kill);
        receivers.forEach(Receiver::close);
    }

    private NodeProcess started(String name) throws IOException {
        Receiver receiver = Receiver.answering(200);
        receivers.add(receiver);
        NodeProcess node = new NodeProcess(name, Files.createDirectory(folder.resolve(name)), TestDatabase.fresh());
        nodes.add(node);
        node.setClock(0);
        node.start();
        Client client = node.ready();
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(SETUP.formatted(receiver.address(), LONG)));
        return node;
    }

    /** What each device tells, second by second: a temperature that swings, a counter, and every other second a part. */
    private static String body(String device, int second, Instant begin) {
        double t = Math.round(40 * Math.sin((second + device.charAt(0)) / 4.0)) / 10.0;
        return "{\"id\":\"%s\",\"at\":\"%s\",\"n\":%d,\"t\":%s,\"count\":%d,\"%s\":%d}"
                .formatted(
                        device,
                        begin.plusSeconds(second),
                        second,
                        t,
                        3 * second + second / 7,
                        second % 2 == 0 ? "even" : "odd",
                        second);
    }

    /**
     * Sends each when it is time, again and again until it is kept.
     *
     * @return how late the latest was kept
     */
    private Duration sendAll(NodeProcess node, Instant begin) {
        Duration latest = Duration.ZERO;
        for (int second = 0; second < SECONDS; second++) {
            Instant due = begin.plusSeconds(second);
            Client.await(Instant::now, now -> !now.isBefore(due));
            sendSecond(node, begin, second);
            Duration late = Duration.between(due, Instant.now());
            latest = late.compareTo(latest) > 0 ? late : latest;
        }
        return latest;
    }

    private void sendSecond(NodeProcess node, Instant begin, int second) {
        for (String device : DEVICES) {
            String body = body(device, second, begin);
            Client.await(() -> answer(node, body), status -> status == 202, Duration.ofMinutes(10));
        }
    }

    private int answer(NodeProcess node, String body) {
        try {
            return http.send(
                            HttpRequest.newBuilder(URI.create(node.address() + "/in/i"))
                                    .header("Authorization", "Bearer token-token")
                                    .header("Content-Type", "application/json")
                                    .timeout(Duration.ofSeconds(3))
                                    .POST(HttpRequest.BodyPublishers.ofString(body))
                                    .build(),
                            HttpResponse.BodyHandlers.discarding())
                    .statusCode();
        } catch (IOException e) {
            return -1;
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    /** What came, each key once, in order of path and content. */
    private static List<String> came(Receiver receiver) {
        return List.copyOf(receiver.came().stream()
                .collect(Collectors.toMap(
                        came -> came.header("Idempotency-Key"),
                        came -> came.target() + " " + came.body(),
                        (one, other) -> {
                            assertThat(other).isEqualTo(one);
                            return one;
                        }))
                .values()
                .stream()
                .sorted()
                .toList());
    }

    @Test
    void aServiceThatIsKilledMakesTheSameOfItsMessagesAsOneThatIsNot() throws IOException {
        NodeProcess calm = started("calm");
        NodeProcess killed = started("killed");
        Instant begin = Instant.now().truncatedTo(ChronoUnit.SECONDS).plusSeconds(2);
        CompletableFuture<Duration> undisturbed = CompletableFuture.supplyAsync(() -> sendAll(calm, begin));
        CompletableFuture<Duration> disturbed = CompletableFuture.supplyAsync(() -> sendAll(killed, begin));
        for (int kill = 0; kill < KILLS; kill++) {
            Instant when = begin.plusSeconds(4 + 16L * kill).plusMillis(random.nextInt(4_000));
            Client.await(Instant::now, now -> !now.isBefore(when));
            killed.kill();
            killed.start();
            killed.ready();
        }
        long late = Math.max(undisturbed.join().toSeconds(), disturbed.join().toSeconds()) + 3;
        for (NodeProcess node : nodes) {
            Receiver receiver = receivers.get(nodes.indexOf(node));
            Client.good(node.ready().adopt(SETUP.formatted(receiver.address(), late + "s")));
        }
        for (NodeProcess node : nodes) {
            Client client = node.ready();
            Client.await(
                    () -> client.get("/api/v1/balance?from=" + begin.minusSeconds(60)),
                    KilledMemoryTest::nothingIsOwed,
                    Duration.ofMinutes(4).plusSeconds(late));
        }

        List<String> expected = came(receivers.getFirst());
        assertThat(expected.stream()
                        .map(one -> one.substring(0, one.indexOf(' ')))
                        .distinct())
                .containsExactly("/alarms", "/changed", "/downsample", "/increase", "/join");
        assertThat(differences(expected, came(receivers.getLast()))).isEmpty();
    }

    private static boolean nothingIsOwed(JsonNode balance) {
        for (JsonNode lane : balance.path("lanes")) {
            if (lane.path("remembered").asInt()
                            + lane.path("waiting").asInt()
                            + lane.path("inFlight").asInt()
                    > 0) {
                return false;
            }
        }
        return true;
    }

    private static List<String> differences(List<String> calm, List<String> killed) {
        List<String> differences = new ArrayList<>();
        List<String> others = new ArrayList<>(killed);
        for (String one : calm) {
            if (!others.remove(one)) {
                differences.add("only of the one that was not killed: " + one);
            }
        }
        others.forEach(one -> differences.add("only of the one that was killed: " + one));
        return differences;
    }
}
