package org.holtra.service.incidents;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Marking what went wrong on an outlet or a device, and mending it as one act. */
class IncidentTest extends ServiceTest {

    private static final String WRONG = """
            inlets:
              i: {kind: http, at: {path: i, credential: sender}, device: data.id, sequence: data.n}
            outlets:
              o: {kind: http, to: {url: "%1$s/o"}}
              other: {kind: http, to: {url: "%1$s/other"}}
            lanes:
              l: {inlets: [i], pick: data.v > 10, outlet: o, shape: {body: {v: "${data.v * 2}"}}}
              other: {inlets: [i], pick: data.v > 1000, outlet: other}
            """;
    private static final String RIGHT = WRONG.replace("device: data.id", "device: \"default(data.id, data.dev)\"")
            .replace("data.v > 10,", "data.v > 1,")
            .replace("data.v * 2", "data.v");

    private Instant began;

    @BeforeEach
    void setUp() {
        began = Instant.now().minusSeconds(5);
        adopt(WRONG);
    }

    private void adopt(String yaml) {
        Client.good(client.adopt(yaml.formatted(receiver.address())));
    }

    private String send(String device, int number, int value, String at) {
        return client.send("i", "{\"id\":\"%s\",\"n\":%d,\"v\":%d,\"at\":\"%s\"}".formatted(device, number, value, at));
    }

    private String send(String device, int number, int value) {
        return send(device, number, value, Instant.now().toString());
    }

    private long mark(Map<String, Object> about) {
        Map<String, Object> mark = new HashMap<>(about);
        mark.put("since", began.toString());
        mark.put("until", Instant.now().plusSeconds(1).toString());
        return Client.good(client.post("/api/v1/incidents", mark))
                .json()
                .path("number")
                .asLong();
    }

    private JsonNode when(long number, String state) {
        return Client.await(
                () -> client.get("/api/v1/incidents/" + number),
                one -> one.path("state").asString().equals(state));
    }

    private JsonNode mend(long number, Map<String, Object> acts) {
        Client.good(client.post("/api/v1/incidents/" + number + "/mend", acts));
        return when(number, "mended");
    }

    @Test
    void whatIsWrongInASpanOfAnOutletIsListedMendedAsOneActAndReported() {
        receiver.answer(number ->
                new Receiver.Reply(receiver.came().get(number - 1).body().contains("40") ? 422 : 200, "{}"));
        String wrong = send("d", 1, 15);
        String dead = send("d", 2, 20);
        String unrouted = send("d", 3, 5);
        String unread = client.send("i", "{\"dev\":\"e\",\"v\":30}");
        String last = send("d", 6, 16);
        becomes(wrong, "delivered");
        becomes(dead, "dead");
        becomes(last, "delivered");
        adopt(RIGHT);
        receiver.answer(number -> new Receiver.Reply(200, "{}"));

        long number = mark(Map.of("outlet", "o", "title", "Doubled"));
        JsonNode found = when(number, "marked").path("findings");

        assertThat(found.path("messages").asInt()).isEqualTo(5);
        assertThat(found.path("delivered").asInt()).isEqualTo(2);
        assertThat(found.path("unread").asInt()).isEqualTo(1);
        assertThat(found.path("readable").asInt()).isEqualTo(1);
        assertThat(found.at("/dead/422").asInt()).isEqualTo(1);
        assertThat(found.at("/unrouted/l").asInt()).isEqualTo(1);
        assertThat(found.at("/revisions/1").asInt()).isEqualTo(2);
        assertThat(found.at("/examples/unrouted/0").asString()).isEqualTo(unrouted);
        assertThat(found.at("/missing/0/first").asInt()).isEqualTo(4);
        assertThat(found.at("/missing/0/last").asInt()).isEqualTo(5);
        JsonNode proposals = client.get("/api/v1/incidents/" + number).path("proposals");
        assertThat(proposals).hasSize(4).allSatisfy(one -> {
            assertThat(one.path("order").asString()).isNotBlank();
            assertThat(one.path("doubles").asString()).isNotBlank();
        });
        int before = receiver.came().size();

        JsonNode mended = mend(number, Map.of("read", true, "retry", true, "take", true, "wrong", List.of(1)));

        assertThat(mended.at("/acted/readable").asInt()).isEqualTo(1);
        assertThat(mended.at("/acted/dead/422").asInt()).isEqualTo(1);
        assertThat(mended.at("/acted/unrouted/l").asInt()).isEqualTo(1);
        assertThat(mended.at("/acted/revisions/1").asInt()).isEqualTo(2);
        Client.await(() -> receiver.came().size(), size -> size == before + 5);
        List<Receiver.Came> came = receiver.came().subList(before, before + 5);
        assertThat(came)
                .extracting(Receiver.Came::body)
                .containsExactlyInAnyOrder("{\"v\":15}", "{\"v\":20}", "{\"v\":5}", "{\"v\":30}", "{\"v\":16}");
        assertThat(came)
                .filteredOn(one -> one.header("Holtra-Corrects") != null)
                .extracting(one -> one.header("Holtra-Corrects"))
                .containsExactlyInAnyOrder(wrong + ".l", last + ".l");
        assertThat(came)
                .filteredOn(one -> one.body().equals("{\"v\":20}"))
                .extracting(one -> one.header("Idempotency-Key"))
                .containsExactly(dead + ".l");
        becomes(unread, "delivered");

        JsonNode after = client.get("/api/v1/incidents/" + number).path("findings");
        assertThat(after.path("unread").asInt()).isZero();
        assertThat(after.path("dead")).isEmpty();
        assertThat(after.path("unrouted")).isEmpty();
        String report = client.keyed("GET", "/api/v1/incidents/" + number + "/report", null, "text/html")
                .body();
        assertThat(report)
                .contains("Incident " + number + ": Doubled", "What was done", "Deliveries corrected", "4 to 5");
    }

    @Test
    void anotherOutletsTroubleIsLeftAlone() {
        receiver.answer(number -> new Receiver.Reply(422, "{}"));
        String both = send("d", 1, 2_000);
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("letters").size() == 2);
        receiver.answer(number -> new Receiver.Reply(200, "{}"));

        long number = mark(Map.of("outlet", "other"));
        assertThat(when(number, "marked").at("/findings/dead/422").asInt()).isEqualTo(1);
        mend(number, Map.of("retry", true));

        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("letters").size() == 1);
        assertThat(client.get("/api/v1/dead").at("/letters/0/lane").asString()).isEqualTo("l");
        assertThat(receiver.came().getLast().header("Idempotency-Key")).isEqualTo(both + ".other");
    }

    @Test
    void aMendedIncidentIsLookedAtUntilWhatWasSentHasArrived() {
        CompletableFuture<Receiver.Reply> answer = new CompletableFuture<>();
        long number = slowlyMended(answer);
        answer.complete(new Receiver.Reply(200, "{}"));

        JsonNode mended = when(number, "mended");

        assertThat(mended.at("/findings/delivered").asInt()).isEqualTo(1);
        assertThat(mended.at("/findings/waiting").asInt()).isZero();
        assertThat(mended.at("/progress/done")).isEqualTo(mended.at("/progress/expected"));
        assertThat(mended.at("/progress/note").isNull()).isTrue();
    }

    @Test
    void aMendedIncidentIsNotLookedAtForEverIfWhatWasSentDoesNotArrive() {
        CompletableFuture<Receiver.Reply> answer = new CompletableFuture<>();
        try {
            long number = slowlyMended(answer);
            service.database().execute("update job set begun = begun - interval '3 minutes' where what = 'mend'");

            assertThat(when(number, "mended").at("/findings/waiting").asInt()).isEqualTo(1);
        } finally {
            answer.complete(new Receiver.Reply(200, "{}"));
        }
    }

    /** The number of one with a dead delivery that was sent again and waits for its answer. */
    private long slowlyMended(CompletableFuture<Receiver.Reply> answer) {
        receiver.answer(number -> new Receiver.Reply(422, "{}"));
        becomes(send("d", 1, 20), "dead");
        receiver.answer(number -> answer.join());
        long number = mark(Map.of("outlet", "o", "title", "Refused"));
        when(number, "marked");
        Client.good(client.post("/api/v1/incidents/" + number + "/mend", Map.of("retry", true)));
        JsonNode waits = Client.await(
                () -> client.get("/api/v1/incidents/" + number),
                one -> one.at("/progress/note").asString("").equals("1 delivery is on its way"));
        assertThat(waits.path("state").asString()).isEqualTo("mending");
        return number;
    }

    @Test
    void onlyWhatIsChosenIsDoneAndOnlyOnce() {
        String one = send("d", 1, 5);
        String two = send("e", 1, 5);
        adopt(RIGHT);
        long number = mark(Map.of("device", "d"));
        when(number, "marked");

        JsonNode mended = mend(number, Map.of("take", true));

        assertThat(mended.at("/acted/unrouted/l").asInt()).isEqualTo(1);
        becomes(one, "delivered");
        assertThat(client.trace(two).at("/message/lanes")).isEmpty();
        Client.Answer again = client.post("/api/v1/incidents/" + number + "/mend", Map.of("take", true));
        assertThat(again.status()).isEqualTo(409);
        assertThat(again.body()).contains("was mended");
        assertThat(client.keyed("DELETE", "/api/v1/incidents/" + number, null, "application/json")
                        .status())
                .isEqualTo(409);
    }

    @Test
    void aMendingThatARestartInterruptsGoesOnAndDoesEachMessageOnce() {
        int messages = 900;
        for (int i = 0; i < messages; i++) {
            send("d" + i % 7, i, 5);
        }
        adopt(RIGHT);
        long number = mark(Map.of("outlet", "o"));
        assertThat(when(number, "marked").at("/findings/unrouted/l").asInt()).isEqualTo(messages);

        Client.good(client.post("/api/v1/incidents/" + number + "/mend", Map.of("take", true)));
        restart();

        JsonNode mended = when(number, "mended");
        assertThat(mended.at("/acted/unrouted/l").asInt()).isEqualTo(messages);
        client.awaitNothingWaits();
        assertThat(receiver.came().stream()
                        .map(came -> came.header("Idempotency-Key"))
                        .distinct())
                .hasSize(messages);
    }

    @Test
    void aSpanThatIsNoneIsRefusedWithTheFieldThatIsWrong() {
        Client.Answer both = client.post("/api/v1/incidents", Map.of("outlet", "o", "device", "d"));
        Client.Answer none = client.post(
                "/api/v1/incidents",
                Map.of(
                        "outlet",
                        "nowhere",
                        "since",
                        began.toString(),
                        "until",
                        began.plusSeconds(1).toString()));
        Client.Answer backwards = client.post(
                "/api/v1/incidents",
                Map.of(
                        "outlet",
                        "o",
                        "since",
                        began.toString(),
                        "until",
                        began.minusSeconds(1).toString()));

        assertThat(both.status()).isEqualTo(400);
        assertThat(none.body()).contains("There is no outlet `nowhere`");
        assertThat(backwards.body()).contains("ends before it begins").contains("until");
    }
}
