package org.holtra.service.jobs;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** What people do to many deliveries at once. */
class JobsTest {

    private TestService service;
    private Client client;
    private Receiver receiver;
    private Receiver other;
    private Instant began;

    @BeforeEach
    void setUp() {
        began = Instant.now().minusSeconds(1);
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        receiver = Receiver.answering(400);
        other = Receiver.answering(200);
        client.save("u-in", Map.of("form", "bearer", "token", "in-token-1"));
        adopt("u");
    }

    @AfterEach
    void tearDown() {
        service.close();
        receiver.close();
        other.close();
    }

    private void adopt(String outlet) {
        Client.good(client.adopt("""
                inlets:
                  u: {kind: http, at: {path: u, credential: u-in}, device: data.id}
                outlets:
                  u: {kind: http, to: {url: "%s/"}}
                  v: {kind: http, to: {url: "%s/"}}
                lanes:
                  u: {inlets: [u], outlet: %s, shape: {body: {n: "${data.n}"}}}
                """.formatted(receiver.address(), other.address(), outlet)));
    }

    private List<String> dead(int count) {
        List<String> ids = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            ids.add(client.send("u", "{\"id\":\"d" + i % 2 + "\",\"n\":" + i + "}"));
        }
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("total").asInt() == count);
        return ids;
    }

    private static JsonNode good(Client.Answer answer) {
        return Client.good(answer).json();
    }

    private JsonNode balance() {
        return client.get("/api/v1/balance");
    }

    @Test
    void deadLettersGoToAnotherOutletOrAreTriedAgain() {
        dead(6);

        JsonNode preview = good(client.post("/api/v1/dead/preview", Map.of("device", "d0")));
        JsonNode aimed = good(client.post("/api/v1/dead/retry?to=v", Map.of("device", "d0")));
        receiver.answer(number -> new Receiver.Reply(200, ""));
        JsonNode retried = good(client.post("/api/v1/dead/retry", Map.of("lane", "u")));

        assertThat(preview.path("count").asInt()).isEqualTo(3);
        assertThat(aimed.path("count").asInt()).isEqualTo(3);
        assertThat(retried.at("/job/state").asString()).isEqualTo("done");
        client.awaitNothingWaits();
        assertThat(other.came()).hasSize(3);
        assertThat(receiver.came()).hasSize(9);
        assertThat(balance().path("missing").asInt()).isZero();
        assertThat(client.get("/api/v1/jobs").path("jobs")).hasSize(2);
    }

    @Test
    void nothingIsDoneToAllBySlip() {
        dead(1);

        assertThat(client.post("/api/v1/dead/drop", Map.of()).status()).isEqualTo(400);
        assertThat(client.post("/api/v1/dead/retry?to=nowhere", Map.of("all", true))
                        .status())
                .isEqualTo(400);
    }

    @Test
    void whatWasDroppedCanBeTakenBackForAWhile() {
        List<String> ids = dead(4);

        JsonNode dropped = good(client.post("/api/v1/dead/drop", Map.of("all", true)));
        assertThat(dropped.path("count").asInt()).isEqualTo(4);
        assertThat(Client.state(client.trace(ids.getFirst()))).isEqualTo("dropped");
        assertThat(balance().at("/lanes/0/dropped").asInt()).isEqualTo(4);
        assertThat(client.get("/api/v1/dead").path("total").asInt()).isZero();

        String job = dropped.at("/job/id").asString();
        JsonNode undone = good(client.post("/api/v1/jobs/" + job + "/undo", Map.of()));

        assertThat(undone.path("count").asInt()).isEqualTo(4);
        assertThat(client.get("/api/v1/dead").path("total").asInt()).isEqualTo(4);
        assertThat(Client.state(client.trace(ids.getFirst()))).isEqualTo("dead");
        assertThat(client.post("/api/v1/jobs/" + job + "/undo", Map.of()).status())
                .isEqualTo(409);
    }

    @Test
    void whatWasDroppedIsSettledOnceItCannotBeTakenBackAnyMore() {
        String id = dead(1).getFirst();
        good(client.post("/api/v1/dead/drop", Map.of("all", true)));

        service.database().execute("update dead_letter set dropped_until = now() - interval '1 s'");
        Client.await(
                () -> service.database().texts("select fate from outcome where lane = 'u'"),
                fates -> fates.contains("dropped"));

        assertThat(service.database().texts("select delivery from dead_letter")).isEmpty();
        assertThat(Client.state(client.trace(id))).isEqualTo("dropped");
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void aDeadLetterIsEditedAndGoesAsItWasWritten() {
        String id = dead(1).getFirst();
        String delivery = client.get("/api/v1/dead").at("/letters/0/delivery").asString();
        receiver.answer(number -> new Receiver.Reply(200, ""));

        JsonNode content = client.get("/api/v1/dead/" + delivery + "/content");
        Map<String, Object> edited = new HashMap<>();
        edited.put("texts", Map.of("path", "/mended"));
        edited.put("named", Map.of("headers", List.of(Map.of("name", "X-Mended", "value", "by hand"))));
        edited.put("contentType", content.path("contentType").asString());
        edited.put("body", "{\"n\":\"by hand\"}");
        good(client.post("/api/v1/dead/" + delivery + "/edit-retry", edited));

        assertThat(content.path("body").asString()).isEqualTo("{\"n\":0}");
        client.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
        assertThat(receiver.came().getLast().body()).isEqualTo("{\"n\":\"by hand\"}");
        assertThat(receiver.came().getLast().target()).endsWith("/mended");
        assertThat(receiver.came().getLast().header("X-Mended")).isEqualTo("by hand");
        assertThat(receiver.came().getLast().header("Idempotency-Key")).isEqualTo(id + ".u");
    }

    private Map<String, Object> terms() {
        Map<String, Object> terms = new HashMap<>();
        terms.put("lane", "u");
        terms.put("from", began.toString());
        return terms;
    }

    private List<String> delivered(int count) {
        receiver.answer(number -> new Receiver.Reply(200, ""));
        List<String> ids = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            ids.add(client.send("u", "{\"id\":\"d" + i % 2 + "\",\"n\":" + i + "}"));
        }
        Client.await(() -> receiver.came().size(), size -> size == count);
        return ids;
    }

    @Test
    void aReplayDeliversAgainUnderAKeyThatNamesTheFirst() {
        List<String> ids = delivered(6);
        Map<String, Object> terms = terms();
        terms.put("where", "data.n >= 4");
        terms.put("outlet", "v");

        JsonNode preview = good(client.post("/api/v1/replays/preview", terms));
        assertThat(preview.path("deliveries").asInt()).isEqualTo(2);
        assertThat(other.came()).isEmpty();
        JsonNode begun = good(client.post("/api/v1/replays", terms));

        Client.await(() -> other.came().size(), size -> size == 2);
        String name = begun.path("name").asString();
        assertThat(other.came()).allSatisfy(came -> {
            assertThat(came.header("Idempotency-Key")).endsWith(".u." + name);
            assertThat(came.header("Holtra-Replays")).endsWith(".u");
        });
        JsonNode trace = client.traceWhen(
                ids.getLast(), one -> one.at("/replays/0/state").asString("").equals("delivered"));
        assertThat(trace.at("/replays/0/name").asString()).isEqualTo(name);
        assertThat(trace.at("/replays/0/outlet").asString()).isEqualTo("v");
        assertThat(Client.state(trace)).isEqualTo("delivered");
        assertThat(balance().path("missing").asInt()).isZero();
        assertThat(balance().at("/lanes/0/taken").asInt()).isEqualTo(6);
    }

    @Test
    void aReplayMayGoUnderTheFirstKeyAtAPace() {
        List<String> ids = delivered(4);
        Map<String, Object> terms = terms();
        terms.put("sameKey", true);
        terms.put("perSecond", 4);
        terms.put("device", "d1");

        good(client.post("/api/v1/replays", terms));

        Client.await(() -> receiver.came().size(), size -> size == 6);
        assertThat(receiver.came().subList(4, 6))
                .extracting(came -> came.header("Idempotency-Key"))
                .containsExactlyInAnyOrder(ids.get(1) + ".u", ids.get(3) + ".u");
        assertThat(receiver.came().subList(4, 6))
                .allSatisfy(
                        came -> assertThat(came.header("Holtra-Replays")).isEqualTo(came.header("Idempotency-Key")));
    }

    @Test
    void aReplayGoesOnAfterARestartAndDeliversNothingTwice() {
        delivered(40);
        Map<String, Object> terms = terms();
        terms.put("outlet", "v");
        terms.put("perSecond", 20);
        String id = good(client.post("/api/v1/replays", terms)).path("id").asString();
        Client.await(() -> other.came().size(), size -> size >= 15);

        service.close();
        service = service.again();
        client = service.client();

        Client.await(
                () -> client.get("/api/v1/jobs/" + id),
                job -> job.path("state").asString().equals("done"));
        client.awaitNothingWaits();
        assertThat(other.came().stream()
                        .map(came -> came.header("Idempotency-Key"))
                        .distinct())
                .hasSize(40);
        assertThat(client.get("/api/v1/jobs/" + id).path("done").asInt()).isEqualTo(40);
    }

    @Test
    void termsThatMeanNothingAreRefused() {
        Map<String, Object> terms = terms();
        terms.put("where", "data.n >");
        assertThat(client.post("/api/v1/replays/preview", terms).status()).isEqualTo(400);
        terms.put("where", null);
        terms.put("lane", "nowhere");
        assertThat(client.post("/api/v1/replays", terms).status()).isEqualTo(400);
    }
}
