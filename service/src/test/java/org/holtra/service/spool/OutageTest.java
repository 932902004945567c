package org.holtra.service.spool;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class OutageTest {

    private TestDatabase.Cluster cluster;
    private Receiver receiver;

    @BeforeEach
    void setUp() {
        cluster = TestDatabase.Cluster.make();
        receiver = Receiver.answering(200);
    }

    @AfterEach
    void tearDown() {
        receiver.close();
        cluster.close();
    }

    private TestService start(Map<String, Object> special) {
        TestService service = TestService.start(cluster.start().newDatabase(), special);
        service.client().save("o", Map.of("form", "bearer", "token", "token-token"));
        Client.good(service.client().adopt("""
                inlets:
                  o: {kind: http, at: {path: o, credential: o}, device: data.id, duplicates: {same: data.n}, ignore: data.n == 99}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  o: {inlets: [o], outlet: o, order: device}
                """.formatted(receiver.address())));
        return service;
    }

    private static Answer post(Client client, String device, int number) {
        return post(client, device, number, null);
    }

    /** @param payload what a script is to read, in hex; null for none */
    private static Answer post(Client client, String device, int number, String payload) {
        Map<String, Object> body = new LinkedHashMap<>(Map.of("id", device, "n", number));
        if (payload != null) {
            body.put("p", payload);
        }
        return client.call("POST", "/in/o", Client.JSON.writeValueAsBytes(body), "Authorization", "Bearer token-token");
    }

    private List<Integer> came() {
        return receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()).path("n").asInt())
                .toList();
    }

    private static String id(Answer answer) {
        assertThat(answer.status()).as(answer.body()).isEqualTo(202);
        return answer.json().path("id").asString();
    }

    @Test
    void whileTheDatabaseIsAwayMessagesAreKeptAndGoOnInOrderAfterwards() {
        try (TestService service = start(Map.of())) {
            Client client = service.client();
            id(post(client, "known", 0));

            cluster.stop();
            Instant before = Instant.now();
            List<String> ids = new ArrayList<>();
            for (int number = 1; number <= 20; number++) {
                ids.add(id(post(client, "known", number)));
            }
            String duplicate = id(post(client, "known", 20));
            assertThat(post(client, "known", 99).json().path("ignored").asBoolean())
                    .isTrue();
            String newcomer = id(post(client, "unknown", 21));
            Instant after = Instant.now();
            assertThat(service.bean(Spool.class).state().messages()).isEqualTo(22);
            JsonNode status = client.get("/api/v1/status");
            assertThat(status.path("databaseAway").asBoolean()).isTrue();
            assertThat(status.path("waiting").isNull()).isTrue();
            assertThat(status.at("/spools/0/messages").asInt()).isEqualTo(22);
            assertThat(status.at("/troubles/0/text").asString()).startsWith("the database does not answer");
            Answer unknown = client.call("GET", "/api/v1/status", null, "Authorization", "Bearer holtra_unknown");
            assertThat(unknown.status()).isEqualTo(503);
            JsonNode waits = client.get("/api/v1/messages/" + newcomer);
            assertThat(waits.at("/message/state").asString()).isEqualTo("spooled");
            assertThat(waits.at("/message/reason").asString()).contains("it waits in the spool of node");
            Answer body = client.call(
                    "GET", "/api/v1/messages/" + newcomer + "/body", null, "Authorization", "Bearer " + service.key());
            assertThat(body.body()).contains("\"n\":21");
            cluster.start();
            // What waits in the spool still is never called missing.
            Client.await(
                    () -> {
                        long left = service.bean(Spool.class).state().messages();
                        Answer balance = client.keyed("GET", "/api/v1/balance", null, "application/json");
                        if (balance.status() == 200) {
                            assertThat(balance.json().path("missing").asInt())
                                    .as(balance.body())
                                    .isZero();
                        }
                        return left;
                    },
                    left -> left == 0);
            String last = id(post(client, "known", 22));
            client.traceWhen(last, trace -> Client.state(trace).equals("delivered"));
            client.traceWhen(newcomer, trace -> Client.state(trace).equals("delivered"));

            assertThat(came().stream().filter(n -> n != 21)).isSorted().hasSize(22);
            assertThat(client.trace(duplicate).at("/message/state").asString()).isEqualTo("duplicate");
            assertThat(client.get("/api/v1/devices/one?key=unknown").path("key").asString())
                    .isEqualTo("unknown");
            JsonNode first = client.trace(ids.getFirst());
            assertThat(Instant.parse(first.at("/message/received").asString()))
                    .isBetween(before.minusMillis(100), after);
            JsonNode balance = client.get("/api/v1/balance");
            assertThat(balance.path("missing").asInt()).isZero();
            assertThat(balance.at("/intake/acknowledged").asInt()).isEqualTo(25);
            assertThat(balance.at("/intake/ignored").asInt()).isEqualTo(1);
        }
    }

    @Test
    void aDatabaseThatHangsHoldsNobodyUpAndNothingIsLostOrDoubled() {
        try (TestService service = start(Map.of())) {
            Client client = service.client();
            id(post(client, "known", 0));
            client.traceWhen(
                    id(post(client, "known", 1)), trace -> Client.state(trace).equals("delivered"));

            cluster.freeze(true);
            for (int number = 2; number <= 12; number++) {
                id(post(client, "known", number));
            }
            cluster.freeze(false);

            Client.await(() -> service.bean(Spool.class).state().messages(), left -> left == 0);
            client.traceWhen(
                    id(post(client, "known", 13)), trace -> Client.state(trace).equals("delivered"));
            assertThat(came()).containsExactly(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13);
            assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
        }
    }

    @Test
    void whatWaitsInTheSpoolOutlivesTheProcess() {
        TestService service = start(Map.of());
        // Settled, or it would come again after the restart, as it should.
        service.client()
                .traceWhen(
                        id(post(service.client(), "known", 0)),
                        trace -> Client.state(trace).equals("delivered"));
        cluster.stop();
        String spooled = id(post(service.client(), "known", 1));
        service.close();
        cluster.start();

        try (TestService second = service.again()) {
            Client.await(() -> second.bean(Spool.class).state().messages(), left -> left == 0);
            second.client().traceWhen(spooled, trace -> Client.state(trace).equals("delivered"));
            assertThat(came()).containsExactly(0, 1);
        }
    }

    @Test
    void aSpoolThatIsFullTellsSendersToComeAgain() {
        try (TestService service = start(Map.of("holtra.spool-megabytes", 0))) {
            cluster.stop();

            Answer answer = post(service.client(), "known", 1);

            assertThat(answer.status()).isEqualTo(503);
            assertThat(answer.header("Retry-After")).isNotBlank();
            assertThat(answer.json().path("detail").asString()).contains("Nothing was kept");
            assertThat(service.bean(Spool.class).state().trouble()).contains("the spool is full");
        }
    }

    @Test
    void withoutASpoolSendersAreToldToComeAgainAndAfterwardsAllGoesOn() {
        try (TestService service = start(Map.of("holtra.spool-folder", ""))) {
            Client client = service.client();
            assertThat(post(client, "known", 0).status()).isEqualTo(202);

            cluster.stop();
            Answer known = post(client, "known", 1);
            Answer unknown = post(client, "unknown", 2);
            cluster.start();

            assertThat(known.status()).isEqualTo(503);
            assertThat(known.header("Retry-After")).isNotBlank();
            assertThat(known.json().path("detail").asString()).contains("Nothing was kept");
            assertThat(unknown.status()).isEqualTo(503);
            Answer again = Client.await(() -> post(client, "known", 1), answer -> answer.status() == 202);
            client.traceWhen(id(again), trace -> Client.state(trace).equals("delivered"));
            assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
        }
    }

    @Test
    void aMessageWhoseScriptSpoilsItsAnswerDoesNotStopTheSpool() {
        try (TestService service = start(Map.of())) {
            Client client = service.client();
            Client.good(client.adopt("""
                    models:
                      evil:
                        codec:
                          script: |
                            Array.prototype.toJSON = function () { return undefined; };
                            Object.prototype.toJSON = function () { throw 1; };
                            function decodeUplink(input) { return { data: { v: input.bytes } }; }
                      good:
                        codec: {script: "function decodeUplink(input) { return { data: { v: input.bytes[0] } }; }"}
                    inlets:
                      o:
                        kind: http
                        at: {path: o, credential: o}
                        device: data.id
                        payload: {bytes: data.p, encoding: hex}
                        unknown: {model: "data.id == 'evil' ? 'evil' : 'good'"}
                    outlets:
                      o: {kind: http, to: {url: "%s"}}
                    lanes:
                      o: {inlets: [o], outlet: o, order: device}
                    """.formatted(receiver.address())));
            cluster.stop();
            List<String> evil = new ArrayList<>();
            List<String> good = new ArrayList<>();
            for (int number = 0; number < 5; number++) {
                evil.add(id(post(client, "evil", number, "0102")));
                good.add(id(post(client, "good-" + number, number, "0102")));
            }
            assertThat(service.bean(Spool.class).state().messages()).isEqualTo(10);
            cluster.start();
            Client.await(() -> service.bean(Spool.class).state().messages(), left -> left == 0);

            good.forEach(id -> client.traceWhen(id, trace -> Client.state(trace).equals("delivered")));
            evil.forEach(id -> client.traceWhen(
                    id, trace -> trace.at("/message/state").asString().equals("unreadable")));
            assertThat(service.bean(Spool.class).state().messages()).isZero();
            assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
        }
    }
}
