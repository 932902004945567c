package org.holtra.service.workbench;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class WorkbenchTest {

    private static final Client CLIENT = TestService.shared().client();
    private static Receiver receiver;

    private static final String SETUP = """
            models:
              wb-station:
                fields: {wetBulb: {label: Wet-bulb temperature, unit: Cel, min: -40, max: 40}}
                points:
                  upper: {fields: {moisture: m10}}
                  lower: {fields: {moisture: m30}}
            lookups:
              wb-words: {default: unknown, rows: {1: running}}
            inlets:
              wb-in: {kind: http, at: {path: wb-in, credential: wb}, device: data.id, unknown: {model: "'wb-station'"}}
            outlets:
              wb-desk: {kind: http, preset: work-order, to: {url: "@desk@/orders", query: {v: 1}, credential: wb-out, headers: {X-Co: Larkmoor}}}
              wb-other: {kind: http, to: {url: "@desk@/other"}}
            lanes:
              wb-frost:
                inlets: [wb-in]
                pick: data.wetBulb < 0.3 && device.facts.frostProne
                outlet: wb-desk
                shape: {body: {what: frost call, where: "row ${device.facts.row}", wetBulb: "${data.wetBulb}"}}
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
        CLIENT.save("wb", Map.of("form", "bearer", "token", "token-token"));
        CLIENT.save("wb-out", Map.of("form", "bearer", "token", "out-secret-7"));
        Client.good(CLIENT.adopt(SETUP.replace("@desk@", receiver.address())));
    }

    private static Map<String, Object> frost() {
        Map<String, Object> lane = new LinkedHashMap<>();
        lane.put("inlets", List.of("wb-in"));
        lane.put("pick", "data.wetBulb < 0.3 && device.facts.frostProne");
        lane.put("outlet", "wb-desk");
        lane.put(
                "shape",
                Map.of(
                        "body",
                        Map.of(
                                "what",
                                "frost call",
                                "where",
                                "row ${device.facts.row}",
                                "wetBulb",
                                "${data.wetBulb}")));
        return lane;
    }

    private static Map<String, Object> with(String field, Object value) {
        Map<String, Object> lane = frost();
        lane.put(field, value);
        return lane;
    }

    private static String sent(String id, double wetBulb) {
        return CLIENT.send("wb-in", "{\"id\":\"" + id + "\",\"wetBulb\":" + wetBulb + "}");
    }

    private static void facts(String key, Map<String, Object> facts) {
        Client.good(CLIENT.put("/api/v1/devices/one?key=" + key, Map.of("model", "wb-station", "facts", facts)));
    }

    private static JsonNode attempt(Map<String, Object> asked) {
        return Client.good(CLIENT.post("/api/v1/lanes/wb-frost/try", asked)).json();
    }

    @Test
    void aTryTellsWhyNotAndTheValueOfEachPart() {
        String id = sent("wb-1", -2);
        facts("wb-1", Map.of("frostProne", false, "row", 4));

        JsonNode tried = attempt(Map.of("message", id));

        assertThat(tried.path("whyNot").asString())
                .isEqualTo("`device.facts.frostProne` is false (device.facts.frostProne is false)");
        assertThat(tried.at("/explanation/truth").asBoolean()).isFalse();
        assertThat(tried.at("/explanation/parts/0/source").asString()).isEqualTo("data.wetBulb < 0.3");
        assertThat(tried.at("/explanation/parts/0/truth").asBoolean()).isTrue();
        assertThat(tried.at("/explanation/parts/0/parts/0/value").asString()).isEqualTo("-2 Cel");
        assertThat(tried.at("/requests/0/text").asString())
                .isEqualTo("{\"what\":\"frost call\",\"where\":\"row 4\",\"wetBulb\":-2}");
    }

    @Test
    void aTrySupposesFactsForItselfOnly() {
        String id = sent("wb-2", -2);
        facts("wb-2", Map.of("frostProne", false, "row", 4));

        JsonNode tried = attempt(Map.of("message", id, "facts", Map.of("frostProne", true, "row", 9)));

        assertThat(tried.path("whyNot").isNull()).isTrue();
        assertThat(tried.at("/requests/0/text").asString()).contains("row 9");
        assertThat(CLIENT.get("/api/v1/devices/one?key=wb-2").at("/facts/row").asInt())
                .isEqualTo(4);
    }

    @Test
    void aTryTellsOfTheLanesErrorsByField() {
        JsonNode tried = attempt(Map.of("lane", with("pick", "data.wetBulb <"), "message", sent("wb-3", 1)));

        assertThat(tried.at("/problems/0/where").asString()).isEqualTo("lanes.wb-frost.pick");
        assertThat(tried.path("requests")).isEmpty();
    }

    @Test
    void whatIsPastedIsTriedWithoutBeingKept() {
        long before =
                CLIENT.get("/api/v1/messages?inlet=wb-in").path("messages").size();

        JsonNode tried = attempt(Map.of(
                "lane", with("pick", "data.wetBulb < 0"),
                "pasted",
                        Map.of(
                                "inlet",
                                "wb-in",
                                "body",
                                "{\"id\":\"wb-new\",\"wetBulb\":-60}",
                                "contentType",
                                "application/json")));

        assertThat(tried.path("whyNot").isNull()).isTrue();
        assertThat(tried.at("/requests/0/failure").asString()).isEqualTo("device.facts.row is not there");
        assertThat(tried.at("/requests/0/failedAt").asString()).isEqualTo("body.where");
        assertThat(tried.path("warnings").valueStream().map(JsonNode::asString))
                .contains("data.wetBulb is -60.0 Cel, below the -40.0 Cel that its model believes");
        assertThat(CLIENT.get("/api/v1/messages?inlet=wb-in").path("messages").size())
                .isEqualTo((int) before);
        assertThat(CLIENT.get("/api/v1/devices").toString()).doesNotContain("wb-new");
        assertThat(attempt(Map.of("pasted", Map.of("inlet", "wb-in", "body", "{")))
                        .path("unreadable")
                        .asString())
                .startsWith("the body is not JSON");
    }

    @Test
    void aTryWarnsOfWhatTheDestinationsPresetRefusesAndOfWhatIsLeftOut() {
        String id = sent("wb-4", -2);
        facts("wb-4", Map.of("frostProne", true, "row", 4));

        JsonNode tried = attempt(Map.of(
                "lane",
                with("shape", Map.of("body", Map.of("what", "x", "priority", "at once", "hum?", "${data.humidity}"))),
                "message",
                id));

        List<String> warnings =
                tried.path("warnings").valueStream().map(JsonNode::asString).toList();
        assertThat(warnings)
                .anyMatch(
                        warning -> warning.contains("the destination would refuse body") && warning.contains("where"));
        assertThat(warnings).anyMatch(warning -> warning.startsWith("the destination would refuse body.priority:"));
        assertThat(warnings).contains("body.hum is left out: data.humidity is not there");
        assertThat(attempt(Map.of("lane", with("pick", "data.wetBulp < 3"), "message", id))
                        .path("warnings")
                        .toString())
                .contains("data.wetBulp was never seen on wb-in; did you mean data.wetBulb?");
    }

    @Test
    void theRequestShownIsTheRequestSent() throws Exception {
        try (ServerSocket socket = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
            Client.good(CLIENT.adopt(SETUP.replace("@desk@", "http://127.0.0.1:" + socket.getLocalPort())));
            String id = sent("wb-5", 3);
            facts("wb-5", Map.of("frostProne", true, "row", 4));
            Map<String, Object> asked = Map.of(
                    "lane",
                    with(
                            "shape",
                            Map.of(
                                    "path", "/p%20q/${device.facts.row}",
                                    "query", Map.of("at", "ä&b"),
                                    "headers", Map.of("X-Row", "${device.facts.row}"),
                                    "body", Map.of("t", "${data.wetBulb}"))),
                    "message",
                    id);
            JsonNode shown = attempt(asked).at("/requests/0");
            CompletableFuture<String> came = CompletableFuture.supplyAsync(() -> takeOne(socket));

            JsonNode sent = Client.good(CLIENT.post("/api/v1/lanes/wb-frost/trial", asked))
                    .json();

            String head = head(shown);
            assertThat(head).contains("Authorization: Bearer •••").doesNotContain("out-secret-7");
            assertThat(came.get())
                    .isEqualToIgnoringNewLines(head.replace("•••", "out-secret-7")
                                    .replace(".wb-frost\r\n", ".wb-frost.trial\r\n")
                                    .replaceFirst("traceparent: .*\r\n", "Holtra-Trial: true\r\n")
                            + shown.path("text").asString());
            assertThat(sent.path("verdict").asString()).isEqualTo("delivered");
            assertThat(sent.path("code").asString()).isEqualTo("204");
        }
    }

    /** What is shown of a request, as it goes over the wire. */
    private static String head(JsonNode shown) {
        String[] summary = shown.path("summary").asString().split(" ");
        URI address = URI.create(summary[1]);
        StringBuilder head = new StringBuilder(summary[0] + " " + address.getRawPath() + "?" + address.getRawQuery())
                .append(" HTTP/1.1\r\n");
        shown.path("fields")
                .properties()
                .forEach(field -> head.append(field.getKey() + ": ")
                        .append(field.getValue().asString())
                        .append("\r\n"));
        return head.append("\r\n").toString();
    }

    /** Reads one request and answers it; the traceparent, which is another one each time, is taken out. */
    private static String takeOne(ServerSocket server) {
        try (Socket socket = server.accept()) {
            InputStream in = socket.getInputStream();
            ByteArrayOutputStream all = new ByteArrayOutputStream();
            while (!all.toString(StandardCharsets.UTF_8).endsWith("}")) {
                all.write(in.read());
            }
            socket.getOutputStream().write("HTTP/1.1 204 No Content\r\n\r\n".getBytes(StandardCharsets.US_ASCII));
            socket.getOutputStream().flush();
            return all.toString(StandardCharsets.UTF_8).replaceFirst("traceparent: .*\r\n", "");
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    @Test
    void aTrialIsTracedAndSettlesNothing() {
        String id = sent("wb-6", 30);
        facts("wb-6", Map.of("frostProne", true, "row", 4));

        Client.good(CLIENT.post("/api/v1/lanes/wb-frost/trial", Map.of("message", id)));

        JsonNode trace = CLIENT.trace(id);
        assertThat(trace.path("trials")).hasSize(1);
        assertThat(trace.at("/trials/0/verdict").asString()).isEqualTo("delivered");
        assertThat(trace.at("/lanes/0/picked").asBoolean()).isFalse();
        assertThat(trace.at("/lanes/0/attempts")).isEmpty();
        assertThat(receiver.came())
                .anyMatch(came -> (id + ".wb-frost.trial").equals(came.header("Idempotency-Key"))
                        && "true".equals(came.header("Holtra-Trial")));
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void aPastedTrialIsKeptUnderATraceOfItsOwn() {
        JsonNode sent = Client.good(CLIENT.post(
                        "/api/v1/lanes/wb-frost/trial",
                        Map.of(
                                "lane", with("shape", Map.of("body", "${data.wetBulb}")),
                                "pasted", Map.of("inlet", "wb-in", "body", "{\"id\":\"wb-7\",\"wetBulb\":-1}"))))
                .json();

        JsonNode trace = CLIENT.trace(sent.path("message").asString());
        assertThat(trace.at("/message/state").asString()).isEqualTo("trial");
        assertThat(trace.at("/trials/0/body").asString()).isEqualTo("-1");
        JsonNode balance = CLIENT.get("/api/v1/balance");
        assertThat(balance.path("missing").asInt()).isZero();
        assertThat(balance.at("/intake/unanswered").asInt()).isZero();
    }

    @Test
    void hitsCountAndRangeTheConditionsFields() {
        for (int i = 0; i < 10; i++) {
            sent("wb-h" + i, i - 3.5);
        }
        JsonNode hits = Client.good(CLIENT.post(
                        "/api/v1/lanes/wb-frost/hits",
                        Map.of("lane", with("pick", "data.wetBulb < 0.0 && device.key.startsWith('wb-h')"))))
                .json()
                .path("hits");

        assertThat(hits.path("taken").asInt()).isEqualTo(4);
        JsonNode field = hits.path("fields")
                .valueStream()
                .filter(one -> one.path("field").asString().equals("data.wetBulb"))
                .findFirst()
                .orElseThrow();
        assertThat(field.path("min").asDouble()).isLessThanOrEqualTo(-3.5);
        assertThat(field.path("max").asDouble()).isGreaterThanOrEqualTo(5.5);
        assertThat(field.path("unit").asString()).isEqualTo("Cel");
    }

    @Test
    void theFieldsReallySeenAreKnownWithTheirLastValues() {
        sent("wb-8", 7.25);
        facts("wb-8", Map.of("row", 12));

        List<JsonNode> known =
                CLIENT.get("/api/v1/fields/known?inlets=wb-in").valueStream().toList();

        assertThat(known).anySatisfy(field -> {
            assertThat(field.path("path").asString()).isEqualTo("data.wetBulb");
            assertThat(field.path("unit").asString()).isEqualTo("Cel");
            assertThat(field.path("label").asString()).isEqualTo("Wet-bulb temperature");
            assertThat(field.path("kind").asString()).isEqualTo("number");
        });
        assertThat(known.stream().map(field -> field.path("path").asString()))
                .contains("device.key", "device.facts.row", "meta.eventTime", "meta.type");
    }

    @Test
    void aLaneByPointsIsToldOfThePointsFields() {
        CLIENT.send("wb-in", "{\"id\":\"wb-p\",\"m10\":31,\"m30\":12}");
        Map<String, Object> byPoints = with("pick", "data.moisture > 20 && device.key == 'wb-p'");
        byPoints.put("per", "point");

        JsonNode hits = Client.await(
                () -> Client.good(CLIENT.post("/api/v1/lanes/wb-frost/hits", Map.of("lane", byPoints)))
                        .json()
                        .path("hits"),
                seen -> seen.path("taken").asInt() == 1);
        assertThat(hits.at("/fields/0/field").asString()).isEqualTo("data.moisture");
        assertThat(hits.at("/fields/0/min").asDouble()).isEqualTo(12);
        assertThat(hits.at("/fields/0/max").asDouble()).isEqualTo(31);
        assertThat(CLIENT.get("/api/v1/fields/known?inlets=wb-in&per=point")
                        .valueStream()
                        .map(field -> field.path("path").asString()))
                .contains("data.moisture", "device.point.name");
    }

    @Test
    void aRehearsalTellsWhatTheChangedLaneWouldDoOtherwise() {
        facts("wb-r1", Map.of("frostProne", true, "row", 1));
        String cold = sent("wb-r1", -2);
        String mild = sent("wb-r1", 1);
        String warm = sent("wb-r1", 9);
        Map<String, Object> changed =
                with("pick", "data.wetBulb < 2.0 && data.wetBulb > -9.0 && device.key == 'wb-r1'");
        changed.put("shape", Map.of("body", Map.of("what", "frost", "where", "row ${device.facts.row}")));

        JsonNode done = rehearsed(Map.of("lane", changed, "last", 3));

        assertThat(done.path("counts").path("looked").asInt()).isEqualTo(3);
        assertThat(done.at("/counts/took").asInt()).isEqualTo(1);
        assertThat(done.at("/counts/takes").asInt()).isEqualTo(2);
        assertThat(done.at("/counts/gained").asInt()).isEqualTo(1);
        assertThat(done.at("/counts/changed").asInt()).isEqualTo(1);
        assertThat(done.path("examples")
                        .valueStream()
                        .map(one -> one.path("type").asString() + " "
                                + one.path("message").asString()))
                .containsExactlyInAnyOrder("changed " + cold, "gained " + mild);
        assertThat(done.path("examples")
                        .valueStream()
                        .filter(one -> one.path("type").asString().equals("changed"))
                        .flatMap(one -> one.path("differences").valueStream())
                        .map(one -> one.path("field").asString() + ": "
                                + one.path("was").asString("-") + " > "
                                + one.path("now").asString("-")))
                .containsExactlyInAnyOrder("body.what: \"frost call\" > \"frost\"", "body.wetBulb: -2 > -");
        assertThat(warm).isNotEmpty();
    }

    @Test
    void aRehearsalGoesByTheFactsOfThenOrNow() {
        sent("wb-r2", 20);
        facts("wb-r2", Map.of("frostProne", true, "row", 1));
        sent("wb-r2", -5);
        facts("wb-r2", Map.of("frostProne", false, "row", 2));

        assertThat(rehearsed(Map.of("last", 1, "facts", "then"))
                        .at("/counts/takes")
                        .asInt())
                .isEqualTo(1);
        JsonNode now = rehearsed(Map.of("last", 1, "facts", "now"));
        assertThat(now.at("/counts/lost").asInt()).isEqualTo(1);
        assertThat(now.at("/examples/0/why").asString()).contains("device.facts.frostProne");
    }

    private static JsonNode rehearsed(Map<String, Object> order) {
        String id = Client.good(CLIENT.post("/api/v1/lanes/wb-frost/rehearsals", order))
                .json()
                .path("id")
                .asString();
        return Client.await(
                () -> CLIENT.get("/api/v1/rehearsals/" + id),
                one -> !one.path("ended").isNull());
    }

    @Test
    void whatWasPastedComesApart() {
        Answer apart = CLIENT.post(
                "/api/v1/paste",
                Map.of("text", "curl https://x.example/a -H 'Authorization: Bearer t0k' -d '{\"a\":1}'"));

        assertThat(apart.json().at("/outlet/to/url").asString()).isEqualTo("https://x.example/a");
        assertThat(apart.json().at("/credential/form").asString()).isEqualTo("bearer");
        Answer none = CLIENT.post("/api/v1/paste", Map.of("text", "hello"));
        assertThat(none.status()).isEqualTo(400);
        assertThat(none.json().path("detail").asString()).contains("It should be a curl line");
    }

    @Test
    void everyPresetMakesAGoodPart() {
        for (JsonNode preset : CLIENT.get("/api/v1/presets").valueStream().toList()) {
            String json =
                    preset.path("part").toString().replace("[[name]]", "made").replace("[[credential]]", "wb");
            String shape = preset.path("shape").toString();
            for (JsonNode blank : preset.path("blanks").valueStream().toList()) {
                String mark = "[[" + blank.path("name").asString() + "]]";
                json = json.replace(mark, blank.path("example").asString());
                shape = shape.replace(mark, blank.path("example").asString());
            }
            String thing = preset.path("of").asString() + "s";
            JsonNode checked = Client.good(CLIENT.post(
                            "/api/v1/setup/parts/" + thing + "/made/check",
                            Map.of("content", Client.JSON.readValue(json, Map.class))))
                    .json();
            assertThat(checked.path("problems")
                            .valueStream()
                            .map(one -> one.path("what").asString())
                            .filter(what -> !what.contains("credential") && !what.contains("no connection")))
                    .as(preset.path("name").asString())
                    .isEmpty();
            boolean introduces = preset.path("part").has("introduction");
            if (thing.equals("outlets")
                    && (introduces || !preset.at("/part/kind").asString().equals("http"))) {
                shapeFits(preset.path("name").asString(), json, shape);
            } else if (thing.equals("outlets")) {
                JsonNode tried = attempt(Map.of(
                        "lane", with("shape", Client.JSON.readValue(shape, Map.class)), "message", sent("wb-9", 1.5)));
                assertThat(tried.path("problems"))
                        .as(preset.path("name").asString())
                        .isEmpty();
                assertThat(tried.at("/requests/0/failure").isNull())
                        .as(tried.toString())
                        .isTrue();
            }
        }
    }

    /** Whether a lane to such an outlet may have such a shape. */
    private static void shapeFits(String preset, String outlet, String shape) {
        String setup = """
                {"connections": {"plant": {"kind": "mqtt", "to": {"address": "mqtt://broker.example"}}},
                 "inlets": {"in": {"kind": "sample", "at": {}}},
                 "outlets": {"made": %s},
                 "lanes": {"l": {"inlets": ["in"], "outlet": "made", "shape": %s}}}
                """.formatted(outlet, shape);
        JsonNode checked = CLIENT.keyed(
                        "POST", "/api/v1/setup/check", setup.getBytes(StandardCharsets.UTF_8), "application/yaml")
                .json();
        assertThat(checked.path("problems")
                        .valueStream()
                        .map(one -> one.path("what").asString())
                        .filter(what -> !what.contains("credential")))
                .as(preset)
                .isEmpty();
    }
}
