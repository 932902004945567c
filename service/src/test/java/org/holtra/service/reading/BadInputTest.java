package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Whatever comes in is refused with a status or kept with a reason; nothing is lost and nothing stops. */
class BadInputTest {

    private static final int ROUNDS = 1_500;
    private static final Set<Integer> ANSWERS = Set.of(202, 400, 413, 415);
    private static final String[] TYPES = {
        "application/json",
        "application/cbor",
        "text/csv",
        "text/plain",
        "application/xml",
        "application/x-www-form-urlencoded",
        "application/octet-stream",
        "nonsense",
        "application/json; charset=x"
    };

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final Receiver RECEIVER = Receiver.answering(200);

    @BeforeAll
    static void setUp() {
        CLIENT.save("bad-in", Map.of("form", "bearer", "token", "bad-secret-123"));
        Client.good(CLIENT.adopt("""
                models:
                  any:
                    codec:
                      layout:
                        fields:
                          - {name: a, bits: 16, type: signed, scale: 0.1}
                          - {name: text, bytes: 2, type: ascii, optional: true}
                          - tags: {length: 8, unknown: skip, cases: {1: [{name: b, bits: 8}]}}
                inlets:
                  bad:
                    kind: http
                    at: {path: bad, credential: bad-in}
                    device: "has(data.id) ? data.id : 'bad-device'"
                    time: data.at
                    payload: {bytes: data.payload, port: data.port}
                    sequence: data.n
                    duplicates: {same: data.n}
                    unknown: {model: "'any'"}
                outlets:
                  sink: {kind: http, to: {url: "%s"}}
                lanes:
                  all:
                    inlets: [bad]
                    pick: data.a > 1 || data.text == 'x' || true
                    outlet: sink
                """.formatted(RECEIVER.address())));
    }

    @AfterAll
    static void close() {
        RECEIVER.close();
    }

    private static Answer post(byte[] body, String type) {
        return CLIENT.call("POST", "/in/bad", body, "Authorization", "Bearer bad-secret-123", "Content-Type", type);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "{\"a\":1,\"a\":2}",
                "{\"a\":\"\\ud800\"}",
                "{\"id\":\"\\udc00x\"}",
                "{\"id\":\"a\\u0000b\"}",
                "{\"a\":NaN}",
                "{\"a\":1e999}",
                "{\"a\":123456789012345678901234567890}",
                "{\"n\":1e300}",
                "{\"payload\":\"%%%\"}",
                "{\"payload\":{\"a\":1}}",
                "{\"payload\":\"AAECAwQFBgcICQ==\",\"port\":\"x\"}",
                "{\"at\":\"9999999-01-01T00:00:00Z\"}",
                "{\"at\":1e18}",
                "{\"\\u0000\":1}",
                "null",
                "[]",
                "\"text\"",
                "{\"id\":[1]}",
                "\uFEFF{\"a\":1}"
            })
    void isKeptOrRefusedAndSaysWhy(String body) {
        Answer answer = post(body.getBytes(StandardCharsets.UTF_8), "application/json");

        assertThat(answer.status()).isEqualTo(202);
        var trace = CLIENT.trace(answer.json().path("id").asString());
        assertThat(trace.at("/message/state").asString()).isIn("read", "unreadable", "duplicate");
        if (trace.at("/message/state").asString().equals("unreadable")) {
            assertThat(trace.at("/message/reason").asString()).isNotBlank();
        }
    }

    @Test
    void aMillionBracketsAreUnreadable() {
        byte[] deep = new byte[1_000_000];
        Arrays.fill(deep, (byte) '[');

        Answer answer = post(deep, "application/json");

        assertThat(answer.status()).isEqualTo(202);
        assertThat(CLIENT.trace(answer.json().path("id").asString())
                        .at("/message/reason")
                        .asString())
                .contains("nesting");
    }

    @Test
    void fiftyMegabytesAreRefused() {
        assertThat(post(new byte[50_000_000], "application/json").status()).isEqualTo(413);
    }

    @Test
    void anythingAtAllIsAnsweredAndTheBooksBalance() {
        Random random = new Random(20260412);
        int kept = 0;
        for (int round = 0; round < ROUNDS; round++) {
            byte[] body = body(random);
            Answer answer = post(body, TYPES[random.nextInt(TYPES.length)]);
            assertThat(ANSWERS).as("%s", Arrays.toString(body)).contains(answer.status());
            kept += answer.status() == 202 ? 1 : 0;
        }

        assertThat(kept).isGreaterThan(ROUNDS / 2);
        assertThat(CLIENT.call("GET", "/api/v1/health", null).status()).isEqualTo(200);
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
        for (var message : CLIENT.get("/api/v1/messages?inlet=bad&limit=500").path("messages")) {
            assertThat(CLIENT.trace(message.path("id").asString()).has("lanes")).isTrue();
        }
    }

    private static byte[] body(Random random) {
        byte[] bytes = new byte[random.nextInt(300)];
        random.nextBytes(bytes);
        return switch (random.nextInt(4)) {
            case 0 -> bytes;
            case 1 -> mutated(uplink(random).getBytes(StandardCharsets.UTF_8), random);
            case 2 -> Arrays.copyOf(uplink(random).getBytes(StandardCharsets.UTF_8), random.nextInt(60));
            default -> uplink(random).getBytes(StandardCharsets.UTF_8);
        };
    }

    private static String uplink(Random random) {
        byte[] payload = new byte[random.nextInt(20)];
        random.nextBytes(payload);
        return "{\"id\":\"bad-%d\",\"n\":%d,\"port\":%d,\"at\":%s,\"payload\":\"%s\"}"
                .formatted(
                        random.nextInt(5),
                        random.nextInt(400),
                        random.nextInt(300) - 20,
                        random.nextBoolean()
                                ? "\"2026-04-12T03:20:00Z\""
                                : Double.toString(random.nextGaussian() * 1e12),
                        java.util.Base64.getEncoder().encodeToString(payload));
    }

    private static byte[] mutated(byte[] bytes, Random random) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        for (byte one : bytes) {
            int choice = random.nextInt(40);
            if (choice == 0) {
                out.write(random.nextInt(256));
            } else if (choice > 1) {
                out.write(one);
            }
        }
        return out.toByteArray();
    }
}
