package org.holtra.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Whatever comes in ends read, unreadable or refused; it is never answered 500, and never lost. */
class ArrivalFuzzTest extends ServiceTest {

    private static final long SEED = 20261129;
    private static final int ARRIVALS = 10_000;
    private static final int AT_ONCE = 16;

    private static final String SETUP = """
            inlets:
              json: {kind: http, at: {path: json, credential: sender}, device: data.id, time: data.at, duplicates: {same: data.n}}
              parts: {kind: http, at: {path: parts, credential: sender}, format: json, parts: data.list, device: data.id}
              csv: {kind: http, at: {path: csv, credential: sender}, format: csv, parts: data.rows, device: data.id}
              lines: {kind: http, at: {path: lines, credential: sender}, format: ndjson, parts: data.rows, ignore: data.v == 0}
              form: {kind: http, at: {path: form, credential: sender, methods: [get, post]}, format: form, device: data.id, time: data.at, timeForm: seconds}
              value: {kind: http, at: {path: "value/{probe}/{depth}", credential: sender}, format: text, device: meta.path.probe, value: {field: "'moisture'", point: meta.path.depth}}
              payload: {kind: http, at: {path: payload, credential: sender}, device: data.id, payload: {bytes: data.p, port: data.port, codec: {layout: {fields: [{name: a, type: unsigned, bytes: 2}]}}}}
            outlets:
              o: {kind: http, to: {url: "%s/"}}
            lanes:
              l: {inlets: [json, parts, csv, lines, form, value, payload], outlet: o, order: device, pick: "data.v > 1"}
            """;

    private record Sent(String method, String path, String contentType, byte[] body) {}

    private static final List<String> PIECES = List.of(
            "{",
            "}",
            "[",
            "]",
            ",",
            ":",
            "\"",
            "\"id\":",
            "\"a\"",
            "\"list\":",
            "\"rows\":",
            "\"v\":",
            "\"at\":",
            "\"p\":",
            "1",
            "-1e999",
            "0.1",
            "null",
            "true",
            "1e400",
            "\"2026-04-12T03:20:00Z\"",
            "\"0001-01-01T00:00:00Z\"",
            "\"AQI=\"",
            "\"\\u0000\"",
            "\\ud800",
            "id,v\n",
            "a,1\n",
            ";",
            "\t",
            "\n",
            "\r\n",
            "\u0000",
            "\ufeff",
            "id=a",
            "&v=2",
            "&at=1776136800",
            "%",
            "%00",
            "é",
            "💧",
            "<a>",
            "</a>",
            "<!DOCTYPE",
            "9223372036854775808",
            "-0",
            "NaN",
            "   ",
            "\"n\":",
            "\"port\":",
            "255");

    private static final List<String> WHOLES = List.of(
            "{\"id\":\"a\",\"v\":2,\"n\":1,\"at\":\"2026-04-12T03:20:00Z\"}",
            "{\"list\":[{\"id\":\"a\",\"v\":2},{\"id\":null},7,{\"id\":\"b\\u0000\"}]}",
            "id,v\na,1\nb,2\n",
            "{\"id\":\"a\",\"v\":0}\n{\"id\":\"b\",\"v\":3}\n",
            "id=a&v=2&at=1776136800",
            "23.4",
            "{\"id\":\"a\",\"p\":\"AQI=\",\"port\":2,\"v\":2}");

    private static final List<String> PATHS = List.of(
            "/in/json",
            "/in/parts",
            "/in/csv",
            "/in/lines",
            "/in/form",
            "/in/value/p%201/30",
            "/in/payload",
            "/in/none",
            "/in/value/%00/30",
            "/in/json?x=%zz");

    private static final List<String> TYPES = List.of(
            "application/json",
            "text/csv",
            "application/x-ndjson",
            "application/x-www-form-urlencoded",
            "text/plain",
            "application/octet-stream",
            "application/cbor",
            "text/xml",
            "a",
            "application/json;charset=nonsense");

    private static Sent next(Random random) {
        String path = PATHS.get(random.nextInt(PATHS.size()));
        String method = random.nextInt(20) == 0 ? "GET" : random.nextInt(20) == 0 ? "PUT" : "POST";
        byte[] body = body(random);
        return new Sent(method, path, TYPES.get(random.nextInt(TYPES.size())), body);
    }

    private static byte[] body(Random random) {
        switch (random.nextInt(4)) {
            case 0 -> {
                byte[] bytes = new byte[random.nextInt(60)];
                random.nextBytes(bytes);
                return bytes;
            }
            case 1 -> {
                StringBuilder text = new StringBuilder();
                for (int i = random.nextInt(24); i >= 0; i--) {
                    text.append(PIECES.get(random.nextInt(PIECES.size())));
                }
                return text.toString().getBytes(StandardCharsets.UTF_8);
            }
            default -> {
                byte[] bytes = WHOLES.get(random.nextInt(WHOLES.size())).getBytes(StandardCharsets.UTF_8);
                for (int i = random.nextInt(3); i > 0; i--) {
                    bytes[random.nextInt(bytes.length)] = (byte) random.nextInt(256);
                }
                return bytes;
            }
        }
    }

    private int status(HttpClient http, Sent sent) throws IOException, InterruptedException {
        URI uri;
        try {
            uri = URI.create(service.address() + sent.path);
        } catch (IllegalArgumentException e) {
            return 400; // no client would send it
        }
        return http.send(
                        HttpRequest.newBuilder(uri)
                                .timeout(Duration.ofMinutes(2))
                                .header("Authorization", "Bearer in-token-1")
                                .header("Content-Type", sent.contentType)
                                .method(sent.method, HttpRequest.BodyPublishers.ofByteArray(sent.body))
                                .build(),
                        HttpResponse.BodyHandlers.discarding())
                .statusCode();
    }

    @Test
    void tenThousandArrivalsEndReadUnreadableOrRefused() throws Exception {
        Client.good(client.adopt(SETUP.formatted(receiver.address())));
        Random random = new Random(SEED);
        Map<Integer, Integer> statuses = new TreeMap<>();
        try (HttpClient http = HttpClient.newHttpClient();
                ExecutorService senders = Executors.newFixedThreadPool(AT_ONCE)) {
            List<Future<Integer>> sent = new ArrayList<>();
            for (int i = 0; i < ARRIVALS; i++) {
                Sent one = next(random);
                sent.add(senders.submit(() -> status(http, one)));
            }
            for (Future<Integer> one : sent) {
                statuses.merge(one.get(), 1, Integer::sum);
            }
        }
        assertThat(statuses.keySet()).allMatch(status -> status < 500).contains(202);
        int accepted = statuses.get(202);

        JsonNode balance = Client.await(
                () -> client.get("/api/v1/balance?from=2026-01-01T00:00:00Z&to="
                        + Instant.now().plus(Duration.ofHours(1))),
                found -> found.at("/intake/unacknowledged").asInt() == 0
                        && found.at("/intake/acknowledged").asInt() == accepted);
        assertThat(balance.path("missing").asInt()).as(balance.toString()).isZero();
        JsonNode intake = balance.path("intake");
        assertThat(intake.path("read").asInt()).isPositive();
        assertThat(intake.path("unreadable").asInt()).isPositive();
        assertThat(intake.path("whole").asInt()).isPositive();
        assertThat(intake.path("ignored").asInt())
                .as("parts are ignored within their wholes")
                .isNotNegative();
        assertThat(client.get("/api/v1/messages?state=unreadable&limit=300").toString())
                .doesNotContain("a defect of Holtra's");
    }
}
