package org.holtra.service.refusals;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Whoever set up an inlet sees why its senders are refused, and nothing a stranger sends harms that. */
class RefusalsTest extends ServiceTest {

    @BeforeEach
    void adopt() {
        client.save("other", Map.of("form", "bearer", "token", "in-token-2"));
        Client.good(client.adopt("""
                inlets:
                  meters: {kind: http, at: {path: meters, credential: sender, maxBytes: 1000, contentTypes: [application/json]}, device: data.id}
                  masts: {kind: http, at: {path: masts, credential: other}, device: data.id}
                """));
    }

    private int call(String method, String path, String body, String... headers) {
        return client.call(method, path, body == null ? null : body.getBytes(), headers)
                .status();
    }

    private JsonNode refusals(String query) {
        return client.get("/api/v1/refusals" + query);
    }

    private JsonNode refused(String query, int count) {
        return Client.await(() -> refusals(query), all -> all.path("refusals").size() == count);
    }

    @Test
    void eachSlipIsToldByName() {
        String json = "application/json";
        assertThat(call("POST", "/in/meters", "{}", "Content-Type", json)).isEqualTo(401);
        assertThat(call("POST", "/in/meters", "{}", "Authorization", "in-token-1"))
                .isEqualTo(401);
        assertThat(call("POST", "/in/meters", "{}", "Authorization", "Bearer Bearer in-token-1"))
                .isEqualTo(401);
        assertThat(call("POST", "/in/meters", "{}", "Authorization", "Bearer in-token-2"))
                .isEqualTo(401);
        assertThat(call("GET", "/in/meters", null)).isEqualTo(405);
        String[] good = {"Authorization", "Bearer in-token-1", "Content-Type", "text/csv"};
        assertThat(call("POST", "/in/meters", "{}", good)).isEqualTo(415);
        good[3] = json;
        assertThat(call("POST", "/in/meters", "x".repeat(1_001), good)).isEqualTo(413);

        JsonNode refused = refused("?inlet=meters", 7);

        assertThat(refused.path("refusals").valueStream())
                .extracting(one ->
                        one.path("code").asString() + " " + one.path("slip").asString())
                .containsExactlyInAnyOrder(
                        "401 no-header",
                        "401 no-scheme",
                        "401 scheme-twice",
                        "401 secret-of-another-inlet",
                        "405 method",
                        "415 content-type",
                        "413 too-large");
        assertThat(refused.toString()).doesNotContain("in-token").contains("the secret of inlet masts");
        Client.await(() -> refusals("?inlet=meters").path("slips"), slips -> slips.size() == 7);
    }

    /** More than a few within a second wait for their answer; those who may send do not. */
    @Test
    void whoeverIsRefusedAgainAndAgainIsAnsweredAllTheSame() throws Exception {
        List<Future<Integer>> refused = new ArrayList<>();
        try (ExecutorService callers = Executors.newFixedThreadPool(30)) {
            for (int i = 0; i < 150; i++) {
                refused.add(callers.submit(() -> call("POST", "/in/meters", "{}", "Authorization", "Bearer guess")));
            }
            String[] good = {"Authorization", "Bearer in-token-1", "Content-Type", "application/json"};
            assertThat(call("POST", "/in/meters", "{}", good)).isEqualTo(202);
            for (Future<Integer> one : refused) {
                assertThat(one.get()).isEqualTo(401);
            }
        }
    }

    @Test
    void anAddressOneLetterOffNamesTheNearestInlet() {
        assertThat(call("POST", "/in/metres", "{}")).isEqualTo(404);

        JsonNode one = refused("", 1).at("/refusals/0");

        assertThat(one.path("text").asString())
                .isEqualTo("No inlet is at /in/metres. The nearest is /in/meters, of inlet meters.");
        assertThat(refusals("?inlet=meters").path("refusals")).isEmpty();
    }

    @Test
    void theSecretBeforeARotationIsKnownOnceItsOverlapHasEnded() {
        JsonNode rotated = Client.good(client.post("/api/v1/credentials/sender/rotate?overlap=1s", Map.of()))
                .json();
        assertThat(rotated.isObject()).isTrue();
        Client.await(
                () -> call(
                        "POST",
                        "/in/meters",
                        "{\"id\":\"a\"}",
                        "Authorization",
                        "Bearer in-token-1",
                        "Content-Type",
                        "application/json"),
                status -> status == 401);

        JsonNode one = refused("?inlet=meters", 1).at("/refusals/0");

        assertThat(one.path("slip").asString()).isEqualTo("old-secret");
    }

    @Test
    void theLastTwoHundredStayAlsoAfterARestartAndAllAreCounted() {
        for (int number = 0; number < 260; number++) {
            call("POST", "/in/meters?n=" + number, "{}");
        }
        Client.await(() -> refusals("?inlet=meters").at("/slips/0/count").asInt(), count -> count == 260);

        restart();

        JsonNode after = refusals("?inlet=meters");
        assertThat(after.path("refusals")).hasSize(Refusals.KEPT);
        assertThat(after.at("/refusals/0/address").asString()).isEqualTo("POST /in/meters?n=259");
        assertThat(after.at("/slips/0/count").asInt()).isEqualTo(260);
    }

    @Test
    void whatStrangersSendIsCutAndSteersNothing() {
        String[] headers = new String[80];
        for (int i = 0; i < 40; i++) {
            headers[2 * i] = "X-Header-" + i;
            headers[2 * i + 1] = "v".repeat(40);
        }
        headers[0] = "User-Agent";
        headers[1] = "u".repeat(1_000);
        call("POST", "/in/nowhere-" + "a".repeat(2_000) + "?token=very-secret", "{}", headers);

        JsonNode one = refused("", 1).at("/refusals/0");

        assertThat(one.toString().length()).isLessThan(12_000);
        assertThat(one.path("fields").size()).isLessThanOrEqualTo(31);
        assertThat(one.at("/fields/user-agent").asString()).hasSizeLessThan(210);
        assertThat(one.toString()).doesNotContain("very-secret");
    }

    @Test
    void whatIsNoInletIsSaidNotToBe() {
        assertThat(client.keyed("GET", "/api/v1/refusals?inlet=nobody", null, "application/json")
                        .status())
                .isEqualTo(404);
    }

    @Test
    void charactersThatSteerATerminalAreTakenOut() {
        Refusal refusal = new Refusal(
                Instant.EPOCH,
                "",
                "one",
                "\u001b[31m127.0.0.1",
                "POST /in/\u202Ecod\r\nX: y",
                "404",
                "wrong-path",
                "text",
                new HashMap<>(Map.of("a\u0007", "b\u009b")));

        assertThat(List.of(refusal.remote(), refusal.address(), refusal.fields().toString()))
                .allSatisfy(text -> assertThat(text).doesNotContainPattern("[\\p{Cntrl}\\u202E]"));
    }
}
