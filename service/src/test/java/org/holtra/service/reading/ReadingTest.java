package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** From bytes in an uplink to a delivery: codecs, unknown devices, duplicates, and reading again what could not be read. */
class ReadingTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final Receiver RECEIVER = Receiver.answering(200);

    private static final String GOOD = """
                      script: |
                        function decodeUplink(input) {
                          return { data: { t: (input.bytes[0] << 24 >> 16 | input.bytes[1]) / 10, port: input.fPort } };
                        }
            """;
    private static final String BROKEN = """
                      script: |
                        function decodeUplink(input) {
                          return { data: { t: input.bits[0] } };
                        }
            """;

    @AfterAll
    static void close() {
        RECEIVER.close();
    }

    @BeforeEach
    void setUp() {
        RECEIVER.answer(number -> new Receiver.Reply(200, "{}"));
    }

    private static void adopt(String codec) {
        CLIENT.save("reading-in", Map.of("form", "bearer", "token", "reading-secret-1"));
        Client.good(CLIENT.adopt("""
                models:
                  probe:
                    codec:
                %s    fields: {t: {unit: Cel}}
                    points: {deep: {fields: {t: t}, facts: {centimetres: 60}}}
                    shows: {battery: "7.0"}
                inlets:
                  uplinks:
                    kind: http
                    at: {path: reading/uplinks, credential: reading-in}
                    device: data.id
                    payload: {bytes: data.payload, port: data.port}
                    sequence: data.n
                    duplicates: {same: "[data.n, data.payload]", within: 10m}
                    meta: {gateway: data.gw}
                    unknown: {model: "'probe'", facts: {site: data.site}}
                  members:
                    kind: http
                    at: {path: reading/members, credential: reading-in}
                    device: data.id
                    unknown: {admit: false}
                outlets:
                  sink: {kind: http, to: {url: "%s"}}
                lanes:
                  cold:
                    inlets: [uplinks]
                    pick: data.t < 5 && device.points.deep.facts.centimetres == 60
                    outlet: sink
                    shape: {body: {t: "${data.t}", f: "${convert(data.t, 'Cel', '[degF]')}", key: "${device.key}"}}
                  members:
                    inlets: [members]
                    outlet: sink
                """.formatted(codec, RECEIVER.address())));
    }

    private static String uplink(String id, int number, String payload, String gateway) {
        return CLIENT.send(
                "uplinks",
                "{\"id\":\"%s\",\"n\":%d,\"port\":2,\"payload\":\"%s\",\"gw\":\"%s\",\"site\":\"Dunmere\"}"
                        .formatted(id, number, payload, gateway));
    }

    /** The same, once its codec was free: on a busy machine that takes a while. */
    private static String uplinkRead(String id, int number, String payload, String gateway) {
        String message = uplink(id, number, payload, gateway);
        Client.await(
                () -> CLIENT.trace(message),
                trace -> !trace.at("/message/state").asString().equals("deferred"));
        return message;
    }

    private static List<String> bodies(String key) {
        return RECEIVER.came().stream()
                .map(Receiver.Came::body)
                .filter(body -> body.contains("\"" + key + "\""))
                .toList();
    }

    private static JsonNode reread(Map<String, Object> order) {
        JsonNode begun = Client.good(CLIENT.post("/api/v1/rereadings", order)).json();
        return Client.await(
                () -> CLIENT.get("/api/v1/rereadings/" + begun.path("id").asString()),
                now -> !now.path("ended").isNull());
    }

    @Test
    void decodesByTheModelOfADeviceThatAppearedByItself() {
        adopt(GOOD);

        String id = uplink("rd-1", 1, "ABQ=", "gw-1"); // 0x0014: 2.0 degrees

        JsonNode trace = CLIENT.traceWhen(id, now -> Client.state(now).equals("delivered"));
        assertThat(trace.at("/data/t").asDouble()).isEqualTo(2.0);
        assertThat(trace.at("/meta/envelope/payload").asString()).isEqualTo("ABQ=");
        assertThat(trace.path("codec").asString()).isEqualTo("script of model probe");
        assertThat(trace.at("/units/t").asString()).isEqualTo("Cel");
        assertThat(bodies("rd-1")).containsExactly("{\"t\":2,\"f\":35.6,\"key\":\"rd-1\"}");
        JsonNode device = Client.await(
                () -> CLIENT.get("/api/v1/devices/one?key=rd-1"),
                now -> now.path("messages").asInt() == 1);
        assertThat(device.path("model").asString()).isEqualTo("probe");
        assertThat(device.at("/facts/site").asString()).isEqualTo("Dunmere");
        assertThat(device.at("/values/t/value").asDouble()).isEqualTo(2.0);
        assertThat(device.at("/shows/battery").asInt()).isEqualTo(7);
        assertThat(device.at("/gateway/gateway").asString()).isEqualTo("gw-1");
        assertThat(device.path("state").asString()).isEqualTo("live");
    }

    @Test
    void tellsUnitsWhereItSaysWhyALaneDidNotTakeAMessage() {
        adopt(GOOD);

        JsonNode trace = CLIENT.trace(uplinkRead("rd-2", 1, "AMg=", "gw-1"));

        assertThat(trace.at("/lanes/0/whyNot").asString()).isEqualTo("`data.t < 5` is false (data.t is 20 Cel)");
    }

    @Test
    void keepsCopiesMarksThemAndDeliversThemNowhere() {
        adopt(GOOD);

        String first = uplink("rd-3", 5, "AAo=", "gw-1");
        String duplicate = uplink("rd-3", 5, "AAo=", "gw-2");
        CLIENT.traceWhen(first, now -> Client.state(now).equals("delivered"));

        JsonNode copied = CLIENT.trace(duplicate);
        assertThat(copied.at("/message/state").asString()).isEqualTo("duplicate");
        assertThat(copied.at("/message/duplicateOf").asString()).isEqualTo(first);
        JsonNode duplicates = CLIENT.trace(first).path("duplicates");
        assertThat(duplicates).hasSize(1);
        assertThat(duplicates.at("/0/gateway").asString()).isEqualTo("gw-2");
        assertThat(bodies("rd-3")).hasSize(1);
    }

    @Test
    void countsWhatNeverCameByTheDevicesOwnNumbers() {
        adopt(GOOD);

        uplink("rd-4", 10, "AAo=", "gw-1");
        uplink("rd-4", 11, "AAs=", "gw-1");
        uplink("rd-4", 15, "AAw=", "gw-1");
        uplink("rd-4", 1, "AA0=", "gw-1");

        JsonNode device = Client.await(
                () -> CLIENT.get("/api/v1/devices/one?key=rd-4"),
                now -> now.path("messages").asInt() == 4);
        assertThat(device.path("missing").asInt()).isEqualTo(3);
        assertThat(device.path("restarts").asInt()).isEqualTo(1);
        JsonNode gaps = CLIENT.get("/api/v1/devices/gaps?key=rd-4");
        assertThat(gaps).hasSize(2);
        assertThat(gaps.at("/1/missing").asInt()).isEqualTo(3);
    }

    @Test
    void keepsWhatABrokenScriptCannotReadAndReadsItAgainAfterTheFix() {
        adopt(BROKEN);
        String id = uplink("rd-5", 1, "AAo=", "gw-1");
        JsonNode unreadable = becomes(id, "unreadable");
        assertThat(unreadable.at("/message/device").asString()).isEqualTo("rd-5");
        assertThat(unreadable.at("/message/reason").asString())
                .startsWith("the codec of model probe cannot decode 000a on port 2: line 2, column")
                .contains("TypeError");

        adopt(GOOD);
        Map<String, Object> order = Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-5");
        assertThat(reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-5", "dry", true))
                        .path("read")
                        .asInt())
                .isEqualTo(1);
        assertThat(CLIENT.trace(id).at("/message/state").asString()).isEqualTo("unreadable");

        JsonNode done = reread(order);

        assertThat(done.path("read").asInt()).isEqualTo(1);
        assertThat(done.path("picked").asInt()).isEqualTo(1);
        JsonNode trace = CLIENT.traceWhen(id, now -> Client.state(now).equals("delivered"));
        assertThat(trace.at("/message/reason").asString())
                .contains("read again on")
                .contains("before that it was unreadable");
        assertThat(bodies("rd-5")).hasSize(1);

        assertThat(reread(order).path("picked").asInt()).isZero();
        assertThat(bodies("rd-5")).hasSize(1);
    }

    @Test
    void correctsWhatWasDeliveredWronglyDecodedUnderAKeyOfItsOwn() {
        adopt(GOOD.replace("/ 10", "/ 100"));
        String id = uplink("rd-6", 1, "ABQ=", "gw-1");
        CLIENT.traceWhen(id, now -> Client.state(now).equals("delivered"));
        adopt(GOOD);

        JsonNode without = reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-6"));
        assertThat(without.path("corrected").asInt()).isZero();
        JsonNode done = reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-6", "correct", true));

        assertThat(done.path("corrected").asInt()).isEqualTo(1);
        Client.await(() -> bodies("rd-6"), sent -> sent.size() == 2);
        List<Receiver.Came> sent = RECEIVER.came().stream()
                .filter(came -> came.body().contains("rd-6"))
                .toList();
        assertThat(sent.get(0).body()).contains("\"t\":0.2,");
        assertThat(sent.get(1).body()).contains("\"t\":2,");
        assertThat(sent.get(1).header("Idempotency-Key")).isEqualTo(id + ".cold.1");
        assertThat(sent.get(1).header("Holtra-Corrects")).isEqualTo(id + ".cold");
        assertThat(reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-6", "correct", true))
                        .path("corrected")
                        .asInt())
                .isZero();
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void keepsMessagesOfUnknownDevicesUnclaimedUntilTheirDeviceIsClaimed() {
        adopt(GOOD);
        String id = CLIENT.send("members", "{\"id\":\"rd-7\",\"v\":1}");
        JsonNode unclaimed = CLIENT.trace(id);
        assertThat(unclaimed.at("/message/state").asString()).isEqualTo("unclaimed");
        assertThat(unclaimed.at("/message/reason").asString())
                .isEqualTo("its device `rd-7` is unknown, and inlet `members` admits no unknown devices");

        Client.good(CLIENT.post("/api/v1/devices/claim?key=rd-7", Map.of("facts", Map.of("site", "Ashcombe"))));

        JsonNode trace = CLIENT.traceWhen(id, now -> Client.state(now).equals("delivered"));
        assertThat(trace.at("/message/state").asString()).isEqualTo("read");
        assertThat(bodies("rd-7")).hasSize(1);
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void aDryRunEntersNoUnknownDeviceIntoTheRegistry() {
        adopt(GOOD);
        String id = CLIENT.send("members", "{\"id\":\"rd-16\",\"v\":1}");
        String setup = CLIENT.call("GET", "/api/v1/setup", null, "Authorization", "Bearer " + SERVICE.key())
                .body();
        Client.good(CLIENT.adopt(setup.replace("{admit: false}", "{admit: true}")));

        JsonNode dry = reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-16", "dry", true));

        assertThat(dry.path("read").asInt()).isEqualTo(1);
        assertThat(CLIENT.get("/api/v1/devices").toString()).doesNotContain("rd-16");
        assertThat(CLIENT.trace(id).at("/message/state").asString()).isEqualTo("unclaimed");
        assertThat(reread(Map.of("from", "2020-01-01T00:00:00Z", "device", "rd-16"))
                        .path("read")
                        .asInt())
                .isEqualTo(1);
        assertThat(CLIENT.get("/api/v1/devices").toString()).contains("rd-16");
    }

    @Test
    void keepsTheMessagesOfABarredDeviceAndLetsNoLaneTakeThem() {
        adopt(GOOD);
        uplink("rd-8", 1, "AAo=", "gw-1");
        Client.good(CLIENT.post("/api/v1/devices/bar?key=rd-8&barred=true", Map.of()));

        JsonNode trace = CLIENT.trace(uplinkRead("rd-8", 2, "AAo=", "gw-1"));

        assertThat(trace.at("/message/state").asString()).isEqualTo("read");
        assertThat(trace.at("/message/lanes")).isEmpty();
        assertThat(trace.at("/message/reason").asString()).isEqualTo("its device is barred, so no lane takes it");
        assertThat(CLIENT.get("/api/v1/devices/one?key=rd-8").path("state").asString())
                .isEqualTo("barred");
    }

    @Test
    void aScriptThatHangsIsStoppedAndItsMessageKept() {
        adopt("""
                      script: |
                        function decodeUplink(input) {
                          if (input.bytes[0] === 255) { while (true) {} }
                          return { data: { t: 1 } };
                        }
                """.indent(0));

        String hangs = uplink("rd-9", 1, "//8=", "gw-1");
        String fine = uplink("rd-9", 2, "AAE=", "gw-1");
        assertThat(CLIENT.trace(fine).at("/message/state").asString())
                .as("it waits behind the one before it")
                .isEqualTo("deferred");
        assertThat(CLIENT.get("/api/v1/devices/one?key=rd-9").path("state").asString())
                .isEqualTo("live");

        JsonNode given = becomes(hangs, "unreadable");

        assertThat(given.at("/message/reason").asString())
                .contains("it used more than 500 ms of processor time and was stopped")
                .endsWith("3 times over this message, and not over others");
        assertThat(becomes(fine, "read").at("/message/reason").asString())
                .isEqualTo("read later than it came, since its codec could not be run then");
        assertThat(Client.await(
                                () -> CLIENT.get("/api/v1/devices/one?key=rd-9"),
                                device -> device.at("/values/t").isObject())
                        .path("messages")
                        .asInt())
                .isEqualTo(2);
        assertThat(CLIENT.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    /**
     * A script that was stopped three times in a row rests for a minute, and each further try waits up to half a minute. Each
     * takes two processes that are started for it, and two seconds of a processor, of which a busy machine makes a minute.
     */
    private static JsonNode becomes(String id, String state) {
        return Client.await(
                () -> CLIENT.trace(id),
                trace -> trace.at("/message/state").asString().equals(state),
                Duration.ofMinutes(15));
    }

    @Test
    void triesACodecThatIsNotInForceAndAttachesIt() {
        adopt(GOOD);
        Map<String, Object> trial =
                Map.of("type", "layout", "source", "fields: [{name: t, bits: 16, scale: 0.1}]", "bytes", "00 15");

        JsonNode tried = Client.good(CLIENT.post("/api/v1/codecs/try", trial)).json();
        assertThat(tried.at("/data/t").asDouble()).isEqualTo(2.1);
        JsonNode wrong = Client.good(CLIENT.post(
                        "/api/v1/codecs/try",
                        Map.of("type", "layout", "source", "fields:\n  - {name: t, bit: 16}", "bytes", "")))
                .json();
        assertThat(wrong.at("/problems/0/line").asInt()).isEqualTo(2);

        Client.good(CLIENT.put(
                "/api/v1/models/probe/codec",
                Map.of("type", "layout", "source", "fields: [{name: t, bits: 16, scale: 0.1}]", "note", "by layout")));

        JsonNode trace = CLIENT.trace(uplinkRead("rd-10", 1, "ABU=", "gw-1"));
        assertThat(trace.at("/data/t").asDouble()).isEqualTo(2.1);
        assertThat(CLIENT.get("/api/v1/setup/revisions").at("/revisions/0/note").asString())
                .isEqualTo("by layout");
    }

    @Test
    void listsTheFieldsSeenWithTheirRange() {
        adopt(GOOD);
        uplink("rd-11", 1, "AAo=", "gw-1");
        uplink("rd-11", 2, "ADI=", "gw-1");

        JsonNode fields = Client.await(
                () -> CLIENT.get("/api/v1/fields"),
                now -> field(now).path("count").asInt() >= 2);

        assertThat(field(fields).path("min").asDouble()).isLessThanOrEqualTo(1.0);
        assertThat(field(fields).path("max").asDouble()).isGreaterThanOrEqualTo(5.0);
        assertThat(field(fields).path("kind").asString()).isEqualTo("number");
    }

    private static JsonNode field(JsonNode fields) {
        for (JsonNode field : fields) {
            if (field.path("inlet").asString().equals("uplinks")
                    && field.path("name").asString().equals("t")) {
                return field;
            }
        }
        return fields.path(-1);
    }

    @Test
    void givesASeriesOfANumericField() {
        adopt(GOOD);
        uplink("rd-12", 1, "AAo=", "gw-1");
        uplink("rd-12", 2, "ADI=", "gw-1");

        JsonNode series = Client.await(
                () -> CLIENT.get("/api/v1/devices/series?key=rd-12&field=t"),
                one -> one.path("points").size() == 2);

        assertThat(series.path("unit").asString()).isEqualTo("Cel");
        assertThat(series.path("points"))
                .extracting(point -> point.path("value").asDouble())
                .containsExactly(1.0, 5.0);
    }

    @Test
    void aTableOfDevicesGoesOutAndComesBackWithItsChanges() {
        adopt(GOOD);
        Client.good(CLIENT.put(
                "/api/v1/devices/one?key=rd-13",
                Map.of("model", "probe", "facts", Map.of("site", "Ashcombe", "row", 4), "zone", "CET")));
        String table = CLIENT.call("GET", "/api/v1/devices/table", null, "Authorization", "Bearer " + SERVICE.key())
                .body();
        assertThat(table).startsWith("key,model,zone,installed,silentAfter,").contains("rd-13,probe,CET");

        Answer wrong = csv("key,zone,colour\nrd-13,Moon/Nowhere,red\n");
        assertThat(wrong.json().at("/misfits")).hasSize(2);
        assertThat(wrong.json().at("/misfits/1/what").asString()).isEqualTo("there is no time zone `Moon/Nowhere`");
        Answer taken = csv("key,fact:row,fact:site,point:deep\nrd-13,5,,P-13\nrd-14,07,,\n");

        assertThat(taken.json().path("changed").asInt()).isEqualTo(1);
        assertThat(taken.json().path("entered").asInt()).isEqualTo(1);
        JsonNode device = CLIENT.get("/api/v1/devices/one?key=rd-13");
        assertThat(device.path("facts").toString()).isEqualTo("{\"row\":5}");
        assertThat(device.at("/points/deep/reference").asString()).isEqualTo("P-13");
        assertThat(device.path("zone").asString()).isEqualTo("CET");
        assertThat(CLIENT.get("/api/v1/devices/one?key=rd-14").at("/facts/row").asString())
                .isEqualTo("07");
        assertThat(CLIENT.get("/api/v1/devices/revisions?key=rd-13")
                        .at("/0/knowledge/facts/row")
                        .asInt())
                .isEqualTo(4);
    }

    private static Answer csv(String table) {
        return Client.good(
                CLIENT.keyed("POST", "/api/v1/devices/table", table.getBytes(StandardCharsets.UTF_8), "text/csv"));
    }

    @Test
    void aForgottenDeviceComesBackWhenItIsHeard() {
        adopt(GOOD);
        uplink("rd-15", 1, "AAo=", "gw-1");
        CLIENT.call("DELETE", "/api/v1/devices/one?key=rd-15", null, "Authorization", "Bearer " + SERVICE.key());
        assertThat(CLIENT.get("/api/v1/devices").toString()).doesNotContain("rd-15");

        uplink("rd-15", 2, "AAo=", "gw-1");

        JsonNode device = CLIENT.get("/api/v1/devices/one?key=rd-15");
        assertThat(device.path("revision").asInt()).isEqualTo(2);
    }
}
