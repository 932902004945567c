package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Parts of the setup by themselves: changed, drafted, opened and closed, removed. */
class PartsTest {

    private static final Client CLIENT = TestService.shared().client();
    private static final String LANE = "/api/v1/setup/parts/lanes/pt-lane";
    private static Receiver receiver;

    private static final String SETUP = """
            models:
              pt-probe:
                points:
                  upper: {fields: {moisture: m10}}
                  lower: {fields: {moisture: m30}}
            inlets:
              pt-in: {kind: http, at: {path: pt-in, credential: pt}, device: data.id, unknown: {model: "'pt-probe'"}}
            outlets:
              pt-out: {kind: http, price: {currency: "€", message: 0.5, month: 3}, to: {url: "@desk@/a"}}
              pt-two: {kind: http, to: {url: "@desk@/b"}}
            lanes:
              # Everything.
              pt-lane: {inlets: [pt-in], outlet: pt-out}
            """;

    @BeforeAll
    static void open() {
        receiver = Receiver.answering(200);
    }

    @AfterAll
    static void close() {
        CLIENT.adopt("");
        receiver.close();
    }

    @BeforeEach
    void setUp() {
        receiver.answer(n -> new Receiver.Reply(200, "{}"));
        CLIENT.save("pt", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt(SETUP.replace("@desk@", receiver.address())));
    }

    private static JsonNode post(String path) {
        return Client.good(CLIENT.post(path, Map.of())).json();
    }

    private static Map<String, Object> lane(Object... more) {
        Map<String, Object> lane = new LinkedHashMap<>(Map.of("inlets", List.of("pt-in"), "outlet", "pt-out"));
        for (int i = 0; i < more.length; i += 2) {
            lane.put((String) more[i], more[i + 1]);
        }
        return lane;
    }

    private static Answer delete(String path) {
        return CLIENT.keyed("DELETE", path, null, "application/json");
    }

    private static String send(String id) {
        return CLIENT.send("pt-in", "{\"id\":\"" + id + "\",\"m10\":31,\"m30\":12}");
    }

    private static boolean arrived(String id) {
        return receiver.came().stream()
                .anyMatch(came -> came.header("Idempotency-Key").startsWith(id));
    }

    @Test
    void aClosedLaneKeepsWhatItTakesAndLetsItGoWhenItOpens() {
        post(LANE + "/close");
        String id = send("pt-1");

        JsonNode row = Client.await(
                () -> CLIENT.get("/api/v1/lanes").valueStream().findFirst().orElseThrow(),
                lane -> lane.path("owes").asInt() == 1);
        assertThat(row.path("state").asString()).isEqualTo("closed");
        assertThat(row.path("trouble").asString()).isEqualTo("closed");
        assertThat(Client.state(CLIENT.trace(id))).isEqualTo("waiting");
        assertThat(arrived(id)).isFalse();

        JsonNode opened = post(LANE + "/open");
        assertThat(opened.path("content").has("state")).isFalse();
        CLIENT.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
        assertThat(CLIENT.get("/api/v1/setup/revisions")
                        .at("/revisions/0")
                        .path("note")
                        .asString())
                .isEqualTo("lane pt-lane opened");
    }

    @Test
    void whatWaitsInMemoryWhenALaneClosesWaitsInTheTable() {
        receiver.answer(n -> new Receiver.Reply(503, "{}", "Retry-After", "1"));
        String id = send("pt-2");
        CLIENT.traceWhen(id, trace -> !trace.at("/lanes/0/attempts").isEmpty());
        post(LANE + "/close");
        receiver.answer(n -> new Receiver.Reply(200, "{}"));
        String second = send("pt-2");

        assertThat(Client.state(CLIENT.trace(second))).isEqualTo("waiting");
        post(LANE + "/open");
        CLIENT.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
        CLIENT.traceWhen(second, trace -> Client.state(trace).equals("delivered"));
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void aClosedOutletLetsItsDeliveriesWaitAndIsNotTried() {
        post("/api/v1/setup/parts/outlets/pt-out/close");
        String id = send("pt-3");

        JsonNode outlet =
                CLIENT.get("/api/v1/outlets").valueStream().findFirst().orElseThrow();
        assertThat(outlet.path("state").asString()).isEqualTo("closed");
        assertThat(CLIENT.post("/api/v1/outlets/pt-out/try", Map.of()).status()).isEqualTo(409);
        assertThat(Client.state(CLIENT.trace(id))).isEqualTo("waiting");

        post("/api/v1/setup/parts/outlets/pt-out/open");
        CLIENT.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
    }

    @Test
    void aClosedInletTakesNothingAndSaysSo() {
        post("/api/v1/setup/parts/inlets/pt-in/close");

        Answer answer = CLIENT.call(
                "POST",
                "/in/pt-in",
                "{\"id\":\"x\"}".getBytes(),
                "Authorization",
                "Bearer token-token",
                "Content-Type",
                "application/json");
        assertThat(answer.status()).isEqualTo(503);
        assertThat(answer.header("Retry-After")).isEqualTo("60");
        assertThat(answer.json().path("title").asString()).isEqualTo("The inlet is closed");
        Answer byHand = CLIENT.keyed("POST", "/api/v1/inlets/pt-in/messages", "{}".getBytes(), "application/json");
        assertThat(byHand.status()).isEqualTo(503);

        assertThat(CLIENT.get("/api/v1/inlets").get(0).path("state").asString()).isEqualTo("closed");
    }

    @Test
    void aLaneByPointsDeliversOnceForEachPointUnderAKeyOfItsOwn() {
        Client.good(CLIENT.put(
                LANE,
                Map.of(
                        "content",
                        lane(
                                "per",
                                "point",
                                "pick",
                                "data.moisture > 5",
                                "shape",
                                Map.of("body", "${device.point.name} ${data.moisture}")))));
        String id = send("pt-4");

        JsonNode trace = CLIENT.traceWhen(
                id,
                seen -> seen.path("lanes")
                        .valueStream()
                        .allMatch(one -> one.path("state").asString("").equals("delivered")));
        assertThat(trace.path("lanes")
                        .valueStream()
                        .map(one -> one.path("point").asString()))
                .containsExactly("lower", "upper");
        assertThat(receiver.came().stream()
                        .filter(came -> came.header("Idempotency-Key").startsWith(id)))
                .extracting(came -> came.header("Idempotency-Key") + " " + came.body())
                .containsExactlyInAnyOrder(id + ".pt-lane.upper \"upper 31\"", id + ".pt-lane.lower \"lower 12\"");
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void changingAPartLeavesTheOthersAsTheyAreWritten() {
        Client.good(CLIENT.put(LANE, Map.of("content", lane("pick", "data.m10 > 3"), "note", "only moist")));

        String yaml = CLIENT.keyed("GET", "/api/v1/setup", null, "x/y").body();
        assertThat(yaml)
                .contains(
                        "# Everything.\n  pt-lane:\n",
                        "pick: data.m10 > 3",
                        "price: {currency: \"€\", message: 0.5, month: 3}");
        assertThat(CLIENT.get("/api/v1/setup/revisions")
                        .at("/revisions/0")
                        .path("note")
                        .asString())
                .isEqualTo("only moist");
    }

    @Test
    void whoChangesWhatAnotherChangedMeanwhileIsToldFirst() {
        String mark = CLIENT.get(LANE).path("mark").asString();
        Client.good(CLIENT.put(LANE, Map.of("content", lane("pick", "data.m10 > 3"), "basedOn", mark)));
        // Another part may change at the same time.
        Client.good(CLIENT.put(
                "/api/v1/setup/parts/lookups/pt-words",
                Map.of("content", Map.of("rows", Map.of("1", "on")), "basedOn", "")));

        Answer late = CLIENT.put(LANE, Map.of("content", lane("pick", "data.m10 > 4"), "basedOn", mark));
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.json().path("why").asString()).isEqualTo("overtaken");
        Answer second = CLIENT.put(LANE, Map.of("content", lane(), "basedOn", ""));
        assertThat(second.status()).as("a new part of a name that is taken").isEqualTo(409);
    }

    @Test
    void aDraftIsKeptApartAndSaysWhenItWasOvertaken() {
        JsonNode draft = Client.good(CLIENT.put(LANE + "/draft", Map.of("content", lane("pick", "data.m10 >"))))
                .json();
        assertThat(draft.path("mine").asBoolean()).isTrue();
        JsonNode part = CLIENT.get(LANE);
        assertThat(part.path("content").has("pick")).isFalse();
        assertThat(part.at("/drafts/0/content/pick").asString()).isEqualTo("data.m10 >");
        assertThat(part.at("/drafts/0/overtaken").asBoolean()).isFalse();

        post(LANE + "/close");
        Client.good(CLIENT.put(
                LANE + "/draft",
                Map.of(
                        "content",
                        lane("pick", "data.m10 > 1"),
                        "basedOn",
                        part.path("mark").asString())));
        assertThat(CLIENT.get(LANE).at("/drafts/0/overtaken").asBoolean()).isTrue();
        assertThat(CLIENT.get("/api/v1/setup/drafts").toString()).contains("pt-lane");

        Client.good(delete(LANE + "/draft"));
        assertThat(CLIENT.get(LANE).path("drafts")).isEmpty();
    }

    @Test
    void errorsAreToldByField() {
        Answer wrong = CLIENT.put(LANE, Map.of("content", lane("pick", "data.m10 >", "outlet", "pt-ou")));

        assertThat(wrong.status()).isEqualTo(422);
        assertThat(wrong.json()
                        .path("problems")
                        .valueStream()
                        .map(one -> one.path("where").asString()))
                .containsExactlyInAnyOrder("lanes.pt-lane.pick", "lanes.pt-lane.outlet");
        assertThat(CLIENT.put("/api/v1/setup/parts/lanes/Not%20a%20name", Map.of("content", lane()))
                        .status())
                .isEqualTo(400);
        assertThat(CLIENT.put("/api/v1/setup/parts/things/x", Map.of("content", lane()))
                        .status())
                .isEqualTo(404);
    }

    @Test
    void whatIsNeededIsNotRemovedAndWhatWaitsIsAskedAfter() {
        Answer needed = delete("/api/v1/setup/parts/outlets/pt-out");
        assertThat(needed.status()).isEqualTo(409);
        assertThat(needed.json().path("detail").asString()).contains("lane pt-lane");

        post(LANE + "/close");
        String id = send("pt-5");
        assertThat(CLIENT.get(LANE).path("waiting").asInt()).isEqualTo(1);
        Answer asked = delete(LANE);
        assertThat(asked.status()).isEqualTo(409);
        assertThat(asked.json().at("/waiting/pt-lane").asInt()).isEqualTo(1);
        assertThat(delete(LANE + "?waiting=drop").status()).isEqualTo(400);
        assertThat(delete(LANE + "?waiting=drop&confirm=pt-lane").status()).isEqualTo(200);
        assertThat(Client.state(CLIENT.trace(id))).isEqualTo("dropped");
        assertThat(CLIENT.keyed("GET", "/api/v1/setup", null, "x/y").body()).doesNotContain("pt-lane", "# Everything.");
    }

    @Test
    void whatWaitsFollowsALaneThatGoesElsewhere() {
        post(LANE + "/close");
        String id = send("pt-6");
        Map<String, Object> elsewhere = lane("outlet", "pt-two");

        assertThat(CLIENT.put(LANE, Map.of("content", elsewhere))
                        .json()
                        .at("/waiting/pt-lane")
                        .asInt())
                .isEqualTo(1);
        Client.good(CLIENT.put(LANE + "?waiting=follow", Map.of("content", elsewhere)));

        CLIENT.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
        assertThat(receiver.came().stream()
                        .filter(came -> came.header("Idempotency-Key").startsWith(id)))
                .extracting(Receiver.Came::target)
                .containsExactly("/b");
    }

    @Test
    void anOutletTellsWhatItSentAndWhatThatCosts() {
        String id = send("pt-7");
        CLIENT.traceWhen(id, trace -> Client.state(trace).equals("delivered"));

        JsonNode outlet = Client.await(
                () -> CLIENT.get("/api/v1/outlets")
                        .valueStream()
                        .filter(one -> one.path("name").asString().equals("pt-out"))
                        .findFirst()
                        .orElseThrow(),
                one -> one.at("/traffic/dayMessages").asInt() > 0);
        assertThat(outlet.at("/traffic/dayBytes").asLong()).isPositive();
        assertThat(outlet.path("monthly").asDouble()).isGreaterThanOrEqualTo(3.5);
        assertThat(outlet.at("/price/currency").asString()).isEqualTo("€");
    }

    @Test
    void aTableGoesOutAndInAsCsv() {
        Client.good(CLIENT.put(
                "/api/v1/setup/parts/lookups/pt-states",
                Map.of("content", Map.of("default", "?", "rows", Map.of("1", "on, \"really\"")))));

        assertThat(CLIENT.keyed("GET", "/api/v1/lookups/pt-states/csv", null, "x/y")
                        .body())
                .isEqualTo("key,value\r\n1,\"on, \"\"really\"\"\"\r\n");
        JsonNode read = Client.good(csv("key,value\n1,on\n7,\"dry, too\"\n")).json();
        assertThat(read.path("default").asString()).isEqualTo("?");
        assertThat(read.path("rows").toString()).isEqualTo("{\"1\":\"on\",\"7\":\"dry, too\"}");
        assertThat(csv("1,on\n1,off\n").json().path("detail").asString()).isEqualTo("Line 2: `1` stands there twice.");
        assertThat(csv("1,on,off\n").json().path("detail").asString()).contains("Line 1 has 3 values");
        assertThat(CLIENT.get("/api/v1/lookups").get(0).path("otherwise").asString())
                .isEqualTo("?");
    }

    private static Answer csv(String text) {
        return CLIENT.keyed("POST", "/api/v1/lookups/pt-states/csv", text.getBytes(), "text/csv");
    }

    @Test
    void aDeviceNamesTheLanesThatServeIt() {
        Client.good(CLIENT.put("/api/v1/devices/one?key=pt-dev", Map.of("facts", Map.of("deep", true))));
        Client.good(CLIENT.put(LANE, Map.of("content", lane("devices", Map.of("only", List.of("pt-other"))))));

        JsonNode not = CLIENT.get("/api/v1/devices/lanes?key=pt-dev").get(0);
        assertThat(not.path("serves").asBoolean()).isFalse();
        assertThat(not.path("handPicked").asBoolean()).isTrue();
        assertThat(not.path("whyNot").asString()).isEqualTo("device `pt-dev` is not among the 1 it serves");

        Client.good(CLIENT.put(LANE, Map.of("content", lane("devices", Map.of("where", "device.facts.deep")))));
        assertThat(CLIENT.get("/api/v1/devices/lanes?key=pt-dev")
                        .get(0)
                        .path("serves")
                        .asBoolean())
                .isTrue();
    }
}
