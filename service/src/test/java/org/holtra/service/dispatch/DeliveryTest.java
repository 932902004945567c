package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.Receiver.Came;
import org.holtra.service.support.Receiver.Reply;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;

class DeliveryTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();

    private Receiver receiver;

    @BeforeEach
    void setUp() {
        receiver = Receiver.answering(200);
        CLIENT.save("d-in", Map.of("form", "bearer", "token", "in-token-1"));
        CLIENT.save("d-out", Map.of("form", "bearer", "token", "out-token-1"));
        adopt("{t: \"${data.t}\", who: \"${device.key}\"}", "giveUpAfter: 1d");
    }

    @AfterEach
    void tearDown() {
        CLIENT.adopt("");
        receiver.close();
    }

    private void adopt(String body, String retry) {
        adopt(body, retry, "30s");
    }

    private void adopt(String body, String retry, String timeout) {
        Client.good(CLIENT.adopt("""
                inlets:
                  d: {kind: http, at: {path: d, credential: d-in}, device: data.id, simulated: has(data.sim)}
                outlets:
                  d:
                    kind: http
                    to: {url: "%s/orders/", credential: d-out, timeout: %s, concurrency: 2, query: {v: 1 2}, headers: {X-Fixed: a}}
                lanes:
                  d:
                    inlets: [d]
                    pick: data.t < 5
                    outlet: d
                    shape:
                      path: "/${data.id}"
                      query: {at: "${data.id}"}
                      headers: {X-Device: "${data.id}"}
                      body: %s
                    retry: {first: 50ms, factor: 2, longest: 200ms, %s}
                """.formatted(receiver.address(), timeout, body, retry)));
    }

    private static String send(String id, int t) {
        return CLIENT.send("d", "{\"id\":\"" + id + "\",\"t\":" + t + "}");
    }

    private static JsonNode settled(String id, String state) {
        return CLIENT.traceWhen(id, trace -> Client.state(trace).equals(state));
    }

    @Test
    void deliversWhatTheShapeSaysWithKeyAndTrace() {
        String id = CLIENT.send("d", "{\"id\":\"row 4/B\",\"t\":-1.5,\"sim\":1}");

        JsonNode trace = settled(id, "delivered");
        assertThat(receiver.came()).singleElement().satisfies(came -> {
            assertThat(came.method()).isEqualTo("POST");
            assertThat(came.target()).isEqualTo("/orders/row%204%2FB?v=1%202&at=row%204%2FB");
            assertThat(came.body()).isEqualTo("{\"t\":-1.5,\"who\":\"row 4/B\"}");
            assertThat(came.header("Authorization")).isEqualTo("Bearer out-token-1");
            assertThat(came.header("X-Fixed")).isEqualTo("a");
            assertThat(came.header("X-Device")).isEqualTo("row 4/B");
            assertThat(came.header("Content-Type")).isEqualTo("application/json");
            assertThat(came.header("Idempotency-Key")).isEqualTo(id + ".d");
            assertThat(came.header("traceparent")).matches("00-" + id.replace("-", "") + "-[0-9a-f]{16}-01");
            assertThat(came.header("Holtra-Simulated")).isEqualTo("true");
        });
        JsonNode attempt = trace.at("/lanes/0/attempts/0");
        assertThat(attempt.at("/request/summary").asString()).endsWith("/orders/row%204%2FB?v=1%202&at=row%204%2FB");
        assertThat(attempt.at("/request/fields/Authorization").asString()).isEqualTo("Bearer •••");
        assertThat(attempt.path("body").asString()).isEqualTo("{\"t\":-1.5,\"who\":\"row 4/B\"}");
        assertThat(attempt.path("code").asString()).isEqualTo("200");
        assertThat(trace.toString()).doesNotContain("out-token-1");
    }

    @Test
    void aTraceThatCameInGoesOn() {
        Client.Answer answer = CLIENT.call(
                "POST",
                "/in/d",
                "{\"id\":\"a\",\"t\":1}".getBytes(),
                "Authorization",
                "Bearer in-token-1",
                "traceparent",
                "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01");

        settled(answer.json().path("id").asString(), "delivered");
        assertThat(receiver.came().getFirst().header("traceparent")).startsWith("00-4bf92f3577b34da6a3ce929d0e0e4736-");
    }

    @Test
    void aMessageNoLaneTookIsUnroutedAndTheTraceSaysWhy() {
        JsonNode trace = CLIENT.trace(send("warm", 20));

        assertThat(trace.at("/message/lanes")).isEmpty();
        assertThat(trace.at("/lanes/0/picked").asBoolean()).isFalse();
        assertThat(trace.at("/lanes/0/whyNot").asString()).isEqualTo("`data.t < 5` is false (data.t is 20)");
        assertThat(CLIENT.get("/api/v1/messages?state=unrouted")
                        .path("messages")
                        .toString())
                .contains("warm");
    }

    @ParameterizedTest
    @ValueSource(ints = {408, 425, 429, 500, 503})
    void triesLaterWhatMayPass(int status) {
        receiver.answer(n -> new Reply(n <= 2 ? status : 201, "{}"));

        JsonNode trace = settled(send("a", 1), "delivered");

        assertThat(trace.at("/lanes/0/attempts")).hasSize(3);
        assertThat(trace.at("/lanes/0/attempts/0/verdict").asString()).isEqualTo("try later");
        assertThat(trace.at("/lanes/0/attempts/0/nextTry").isNull()).isFalse();
        assertThat(receiver.came())
                .extracting(came -> came.header("Idempotency-Key"))
                .containsOnly(receiver.came().getFirst().header("Idempotency-Key"));
    }

    @Test
    void triesLaterWhenTheConnectionBreaks() {
        receiver.answer(n -> new Reply(n == 1 ? 0 : 200, "{}"));

        JsonNode trace = settled(send("a", 1), "delivered");

        assertThat(trace.at("/lanes/0/attempts/0/reason").asString()).startsWith("the connection broke");
    }

    @Test
    void honoursRetryAfterInSeconds() {
        receiver.answer(n -> n == 1 ? new Reply(429, "{}", "Retry-After", "2") : new Reply(200, "{}"));

        settled(send("a", 1), "delivered");

        List<Came> came = receiver.came();
        assertThat(Duration.between(came.get(0).at(), came.get(1).at())).isGreaterThan(Duration.ofMillis(1_900));
    }

    @Test
    void honoursRetryAfterAsADate() {
        receiver.answer(n -> n == 1
                ? new Reply(
                        503,
                        "{}",
                        "Retry-After",
                        DateTimeFormatter.RFC_1123_DATE_TIME.format(
                                Instant.now().plusSeconds(3).atZone(ZoneOffset.UTC)))
                : new Reply(200, "{}"));

        settled(send("a", 1), "delivered");

        List<Came> came = receiver.came();
        assertThat(Duration.between(came.get(0).at(), came.get(1).at())).isGreaterThan(Duration.ofMillis(1_500));
    }

    @ParameterizedTest
    @ValueSource(ints = {400, 404, 422, 302})
    void whatIsRefusedIsADeadLetterAtOnce(int status) {
        receiver.answer(n -> new Reply(status, "{\"error\":\"no such row\"}"));

        JsonNode trace = settled(send("a", 1), "dead");

        assertThat(trace.at("/lanes/0/attempts")).hasSize(1);
        assertThat(trace.at("/lanes/0/attempts/0/answer").asString()).contains("no such row");
        assertThat(CLIENT.get("/api/v1/dead?lane=d&cause=" + status).path("letters"))
                .isNotEmpty();
    }

    @Test
    void aRetriedDeadLetterGoesWithTheNewestShapeUnderTheSameKey() {
        receiver.answer(n -> new Reply(n == 1 ? 422 : 200, "{}"));
        String id = send("a", 1);
        settled(id, "dead");
        adopt("{fresh: true}", "giveUpAfter: 1d");

        String delivery =
                CLIENT.get("/api/v1/dead?lane=d").at("/letters/0/delivery").asString();
        assertThat(CLIENT.post("/api/v1/dead/retry", Map.of("deliveries", List.of(delivery)))
                        .json()
                        .path("count")
                        .asInt())
                .isEqualTo(1);

        settled(id, "delivered");
        assertThat(receiver.came().get(1).body()).isEqualTo("{\"fresh\":true}");
        assertThat(receiver.came().get(1).header("Idempotency-Key")).isEqualTo(id + ".d");
    }

    @Test
    void aDroppedDeadLetterSaysWhoDroppedIt() {
        receiver.answer(n -> new Reply(422, "{}"));
        String id = send("a", 1);
        settled(id, "dead");

        assertThat(CLIENT.post("/api/v1/dead/drop", Map.of("lane", "d", "cause", "422"))
                        .json()
                        .path("count")
                        .asInt())
                .isPositive();

        assertThat(settled(id, "dropped").at("/lanes/0/reason").asString()).isEqualTo("dropped by key first-start");
        assertThat(CLIENT.post("/api/v1/dead/drop", Map.of()).status()).isEqualTo(400);
    }

    @Test
    void aRefusedCredentialBlocksTheOutletAndAMendedOneFreesIt() {
        receiver.answer(n -> new Reply(401, "{}"));
        String first = send("a", 1);
        Client.await(() -> outlet(), outlet -> outlet.path("state").asString().equals("blocked"));
        String second = send("b", 2);
        assertThat(outlet().path("reason").asString()).contains("401").contains("refuses the credential");
        assertThat(Client.state(CLIENT.trace(second))).isEqualTo("waiting");
        assertThat(CLIENT.trace(second).at("/lanes/0/attempts")).isEmpty();
        assertThat(CLIENT.get("/api/v1/status").path("stopped").toString()).contains("d is blocked");

        receiver.answer(n -> new Reply(200, "{}"));
        CLIENT.save("d-out", Map.of("form", "bearer", "token", "out-token-2"));

        settled(first, "delivered");
        settled(second, "delivered");
        assertThat(receiver.came().getLast().header("Authorization")).isEqualTo("Bearer out-token-2");
        assertThat(outlet().path("state").asString()).isEqualTo("flowing");
    }

    @Test
    void aDeviceThatIsRefusedIsHeldAndOthersGoOn() {
        receiver.answer(n -> new Reply(receiver.came().getLast().body().contains("\"bad\"") ? 403 : 200, "{}"));
        String bad = send("bad", 1);
        CLIENT.traceWhen(bad, trace -> trace.at("/lanes/0/attempts").size() == 1);
        String alsoBad = send("bad", 2);
        String good = send("good", 1);

        settled(good, "delivered");
        JsonNode held =
                CLIENT.traceWhen(alsoBad, trace -> !trace.at("/lanes/0/reason").isNull());
        assertThat(held.at("/lanes/0/reason").asString()).contains("held");
        assertThat(held.at("/lanes/0/attempts")).isEmpty();
        assertThat(outlet().path("heldDevices").asInt()).isEqualTo(1);
        assertThat(outlet().path("state").asString()).isEqualTo("flowing");
    }

    /** By itself it would be tried after a minute. */
    @Test
    void aHeldDeviceIsTriedAtOnceWhenAPersonSaysSo() {
        receiver.answer(n -> new Reply(403, "{}"));
        String held = send("bad", 1);
        Client.await(() -> outlet(), outlet -> outlet.path("heldDevices").asInt() == 1);
        receiver.answer(n -> new Reply(200, "{}"));

        Client.Answer other = CLIENT.post("/api/v1/outlets/d/try-devices?device=nobody", Map.of());
        assertThat(Client.good(other).json().path("devices")).isEmpty();
        Client.Answer tried = CLIENT.post("/api/v1/outlets/d/try-devices", Map.of());
        assertThat(Client.good(tried).json().path("devices").toString()).isEqualTo("[\"bad\"]");

        Client.await(
                () -> Client.state(CLIENT.trace(held)), state -> state.equals("delivered"), Duration.ofSeconds(40));
        assertThat(outlet().path("heldDevices").asInt()).isZero();
    }

    @Test
    void threeDevicesRefusedInARowBlockTheOutlet() {
        receiver.answer(n -> new Reply(403, "{}"));
        send("a", 1);
        send("b", 1);
        send("c", 1);

        JsonNode blocked = Client.await(
                () -> outlet(), outlet -> outlet.path("state").asString().equals("blocked"));
        assertThat(blocked.path("reason").asString()).contains("3 devices");
    }

    @Test
    void afterAnUnknownOutcomeTheSameBytesGoAgain() {
        receiver.answer(n -> new Reply(n == 1 ? -1 : 200, "{}"));
        adopt("{v: 1, t: \"${data.t}\"}", "giveUpAfter: 1d", "500ms");
        String id = send("a", 1);
        CLIENT.traceWhen(id, trace -> !trace.at("/lanes/0/attempts").isEmpty());
        adopt("{v: 2}", "giveUpAfter: 1d");

        JsonNode trace = settled(id, "delivered");

        assertThat(trace.at("/lanes/0/attempts/0/reason").asString()).isEqualTo("no answer within 500 ms");
        assertThat(receiver.came()).extracting(Came::body).containsOnly("{\"v\":1,\"t\":1}");
        assertThat(receiver.came())
                .extracting(Came::target)
                .hasSizeGreaterThan(1)
                .allMatch(target -> target.equals(receiver.came().getFirst().target()));
    }

    @Test
    void aConflictOnARepeatedAttemptMeansItArrivedBefore() {
        receiver.answer(n -> new Reply(n == 1 ? 500 : 409, "{}"));

        JsonNode trace = settled(send("a", 1), "delivered");

        assertThat(trace.at("/lanes/0/attempts/1/code").asString()).isEqualTo("409");
    }

    @Test
    void aDeliveryIsGivenUpAfterItsTime() {
        receiver.answer(n -> new Reply(500, "{}"));
        adopt("{}", "giveUpAfter: 1s");

        JsonNode trace = settled(send("a", 1), "dead");

        assertThat(trace.at("/lanes/0/reason").asString())
                .startsWith("given up after ")
                .contains("500");
        assertThat(trace.at("/lanes/0/attempts").size()).isGreaterThan(2);
    }

    @Test
    void whatCannotBeShapedIsADeadLetterThatAMendedLaneHeals() {
        adopt("{t: \"${data.missing}\"}", "giveUpAfter: 1d");
        String id = send("a", 1);
        assertThat(settled(id, "dead").at("/lanes/0/reason").asString())
                .isEqualTo("the shape could not be filled at body.t: data.missing is not there");

        adopt("{t: \"${data.t}\"}", "giveUpAfter: 1d");
        CLIENT.post("/api/v1/dead/retry", Map.of("lane", "d"));

        settled(id, "delivered");
    }

    @Test
    void factsAreTheNewestWhenAnAttemptIsMade() {
        Client.good(CLIENT.put("/api/v1/devices/one?key=facty", Map.of("facts", Map.of("row", 4))));
        adopt("{row: \"${device.facts.row}\"}", "giveUpAfter: 1d");

        String id = send("facty", 1);

        settled(id, "delivered");
        assertThat(receiver.came().getFirst().body()).isEqualTo("{\"row\":4}");
        Client.good(CLIENT.put("/api/v1/devices/one?key=facty", Map.of("facts", Map.of("row", 5))));
        assertThat(CLIENT.trace(id).at("/device/facts/row").asInt()).isEqualTo(4);
    }

    @Test
    void manyDeliveriesArriveOnceEach() {
        List<String> ids = java.util.stream.IntStream.range(0, 300)
                .mapToObj(i -> send("a", 1))
                .toList();

        Client.await(receiver::came, came -> came.size() >= 300);
        assertThat(receiver.came())
                .extracting(came -> came.header("Idempotency-Key"))
                .containsExactlyInAnyOrderElementsOf(
                        ids.stream().map(id -> id + ".d").toList());
    }

    private static JsonNode outlet() {
        return CLIENT.get("/api/v1/outlets").get(0);
    }
}
