package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneId;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.MessageType;
import org.holtra.core.message.Reading;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SetupSamples;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ReaderTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:20:00.123Z");
    private static final String TOLD = """
            device: data.device.eui
            time: data.at
            type: "has(data.fault) ? 'fault' : data.kind"
            simulated: "'simulated' in data.tags"
            """;
    private static final String STATION = """
            models:
              station:
                codec:
                  layout:
                    fields:
                      - {name: t, bits: 16, type: signed, scale: 0.01, unit: Cel, when: {port: 2}}
            """;
    private static final String PAYLOAD = """
            device: data.id
            payload: {bytes: data.payload, port: data.port}
            meta: {gateway: "data.gateways[0].id", rssi: "data.gateways[0].rssi"}
            """;

    private final MessageIds ids = new MessageIds(InstantSource.fixed(NOW), new Random(1));
    private final Reader reader = new Reader(Decoding.ofLayouts());

    private Reading read(String body) {
        return read(SetupSamples.inlet(TOLD), Known.NOTHING, null, body.getBytes(StandardCharsets.UTF_8));
    }

    private Reading read(Inlet inlet, Known known, String contentType, byte[] body) {
        Arrival arrival = new Arrival(
                ids.next(),
                inlet.name(),
                Transport.of("", "/a/cs-09").with("headers", Map.of("x-id", "cs-08")),
                contentType,
                body);
        try {
            return reader.finish(reader.open(arrival, inlet), known);
        } catch (UnreadableContent e) {
            return new Reading.Unreadable(arrival, e.getMessage(), null);
        }
    }

    private Message message(String inlet, String body) {
        return message(inlet, Known.NOTHING, body);
    }

    private Message message(String inlet, Known known, String body) {
        Reading reading = read(SetupSamples.inlet(inlet), known, null, body.getBytes(StandardCharsets.UTF_8));
        assertThat(reading).as(reading.toString()).isInstanceOf(Reading.Read.class);
        return ((Reading.Read) reading).message();
    }

    @Test
    void tellsDeviceTimeTypeAndMark() {
        Message message = message(
                TOLD,
                "{\"device\":{\"eui\":\"cs-07\"},\"at\":\"2026-04-12T05:19:58+02:00\",\"kind\":\"status\",\"tags\":[\"simulated\"]}");

        assertThat(message.device()).isEqualTo("cs-07");
        assertThat(message.eventTime()).isEqualTo("2026-04-12T03:19:58Z");
        assertThat(message.type()).isEqualTo(MessageType.STATUS);
        assertThat(message.simulated()).isTrue();
        assertThat(message.note()).isNull();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
                    {"device":| the body is not JSON
                    {"a":1} x| the body is not JSON
                    {"a":1,"a":2}| the body is not JSON: Duplicate Object property "a"
                    {"a":1e999}| a number is beyond what a double holds, or is none (line 1, column 6)
                    {"at":1}| the device could not be told: data.device.eui is not there
                    {"device":{"eui":{}},"kind":"reading"}| the device's key is an object of 0 fields, a text was expected
                    {"device":{"eui":" "},"kind":"reading"}| the device's key is "", a text of 1 to 200 characters
                    {"device":{"eui":"a\\u0000b"},"kind":"reading"}| the device's key is "a·b", a text of 1 to 200 characters
                    {"device":{"eui":"a"},"kind":"gossip"}| the type is "gossip", one of reading, status, fault, event, alarm, result was expected
                    {"device":{"eui":"a"}}| the type could not be told: data.kind is not there
                    """)
    void whatCannotBeReadIsKeptWithItsReason(String body, String reason) {
        assertThat(read(body.strip()))
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable -> assertThat(unreadable.reason()).startsWith(reason));
    }

    @Test
    void anEmptyBodyIsUnreadable() {
        assertThat(read(""))
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable ->
                                assertThat(unreadable.reason()).isEqualTo("the body is empty, JSON was expected"));
    }

    @Test
    void nestingWithoutEndIsUnreadable() {
        assertThat(read("[".repeat(1_000_000))).isInstanceOf(Reading.Unreadable.class);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            application/json; charset=utf-8   | {"a":[1,true,null]}                       | {a=[1.0, true, NULL_VALUE]}
            application/x-www-form-urlencoded | a=1&b=x+y%21&b=2&c=007                    | {a=1.0, b=[x y!, 2.0], c=007}
            text/plain                        | 21.5                                      | {text=21.5, value=21.5}
            text/plain; charset=utf-8         | dry                                       | {text=dry}
            text/csv                          | t;h\\n1;2                                 | {lines=[[t, h], [1.0, 2.0]], rows=[{t=1.0, h=2.0}], t=1.0, h=2.0}
            text/csv                          | cs-01,4.5                                 | {lines=[[cs-01, 4.5]]}
            application/xml                   | <m id="7"><t unit="C">4.5</t><x/><x/></m> | {id=7.0, t={unit=C, =4.5}, x=[, ]}
            application/octet-stream          | anything                                  | {}
            """)
    void readsEachFormatByItsContentType(String type, String body, String data) {
        Reading reading = read(
                SetupSamples.inlet("{}"),
                Known.NOTHING,
                type.strip(),
                body.strip().replace("\\n", "\n").getBytes(StandardCharsets.UTF_8));

        assertThat(reading).isInstanceOf(Reading.Read.class);
        assertThat(((Reading.Read) reading).message().data()).hasToString(data);
    }

    @Test
    void readsCborWithItsBytes() {
        byte[] body = HexFormat.of().parseHex("a2617418fa617041ff"); // {"t": 250, "p": h'ff'}
        Reading reading = read(SetupSamples.inlet("format: cbor"), Known.NOTHING, null, body);

        assertThat(((Reading.Read) reading).message().data()).asString().startsWith("{t=250.0, p=");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            xml  | <!DOCTYPE m [<!ENTITY e SYSTEM "file:///etc/passwd">]><m>&e;</m> | the body is not XML
            xml  | <m>                                                              | the body is not XML
            cbor | x                                                                | the body is not CBOR
            form | %zz=1                                                            | the body is not a form
            """)
    void saysWhatIsWrongInOtherFormats(String format, String body, String reason) {
        Reading reading = read(
                SetupSamples.inlet("format: " + format),
                Known.NOTHING,
                null,
                body.strip().getBytes(StandardCharsets.UTF_8));

        assertThat(reading)
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable -> assertThat(unreadable.reason()).startsWith(reason));
    }

    @ParameterizedTest
    @CsvSource({
        "70-B3-D5-7E-D0-05-A1-B2, 70b3d57ed005a1b2",
        "70:b3:d5:7e:d0:05:A1:B2, 70b3d57ed005a1b2",
        "70B3D57ED005A1B2, 70b3d57ed005a1b2",
        "cs-07, cs-07"
    })
    void bringsHexadecimalIdsToOneWayOfWriting(String sent, String key) {
        assertThat(message("{device: data.id, deviceIds: hexadecimal}", "{\"id\":\"" + sent + "\"}")
                        .device())
                .isEqualTo(key);
    }

    @ParameterizedTest
    @CsvSource({"data.id, cs-07", "\"meta.headers['x-id']\", cs-08", "\"meta.address.split('/')[2]\", cs-09"})
    void findsTheDeviceInDataHeaderOrPath(String expression, String key) {
        assertThat(message("device: " + expression, "{\"id\":\"cs-07\"}").device())
                .isEqualTo(key);
    }

    @Test
    void decodesThePayloadByTheModelAndKeepsTheContentAsEnvelope() {
        Setup setup = SetupSamples.compile(STATION + SetupSamples.asInlet(PAYLOAD));
        Known known = new Known(setup.models().get("station"), null, null);

        Message message = message(
                PAYLOAD,
                known,
                "{\"id\":\"cs-07\",\"port\":2,\"payload\":\"/zg=\",\"gateways\":[{\"id\":\"gw-1\",\"rssi\":-90}]}");

        assertThat(message.data()).isEqualTo(Map.of("t", -2.0));
        assertThat(message.meta()).containsEntry("gateway", "gw-1").containsEntry("rssi", -90.0);
        assertThat(message.meta().get(Meta.ENVELOPE)).asString().contains("payload=/zg=");
        assertThat(setup.models().get("station").units()).isEqualTo(Map.of("t", "Cel"));
    }

    @Test
    void aPayloadThatCannotBeDecodedIsUnreadableAndItsDeviceKnown() {
        Setup setup = SetupSamples.compile(STATION + SetupSamples.asInlet(PAYLOAD));
        Known known = new Known(setup.models().get("station"), null, null);

        Reading reading = read(
                setup.inlets().get("in"),
                known,
                null,
                "{\"id\":\"cs-07\",\"port\":2,\"payload\":\"/w==\"}".getBytes(StandardCharsets.UTF_8));

        assertThat(reading).isInstanceOfSatisfying(Reading.Unreadable.class, unreadable -> {
            assertThat(unreadable.reason())
                    .isEqualTo("the codec of model station cannot decode ff on port 2: "
                            + "byte 0: `t` needs 2 bytes, but the payload ends after 1 byte");
            assertThat(unreadable.origin().device()).isEqualTo("cs-07");
        });
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            base64 | /zg=
            hex    | ff:38
            """)
    void decodesByTheInletsOwnCodecWhereThereIsNoModel(String encoding, String payload) {
        String inlet = """
                payload:
                  bytes: data.payload
                  encoding: %s
                  codec:
                    layout:
                      fields: [{name: t, bits: 16, type: signed, scale: 0.01}]
                """.formatted(encoding);

        assertThat(message(inlet, "{\"payload\":\"" + payload + "\"}").data()).isEqualTo(Map.of("t", -2.0));
    }

    @Test
    void aBodyOfPlainBytesIsThePayloadItself() {
        Setup setup =
                SetupSamples.compile(STATION.replace(", when: {port: 2}", "") + SetupSamples.asInlet("format: bytes"));
        Known known = new Known(setup.models().get("station"), null, null);

        Reading reading = read(setup.inlets().get("in"), known, null, new byte[] {0, 100});

        assertThat(((Reading.Read) reading).message().data()).isEqualTo(Map.of("t", 1.0));
    }

    @Test
    void aMessageWithoutPayloadIsReadAsItIs() {
        assertThat(message(PAYLOAD, "{\"id\":\"cs-07\",\"what\":\"joined\"}").data())
                .isEqualTo(Map.of("id", "cs-07", "what", "joined"));
    }

    @ParameterizedTest
    @CsvSource({
        "'\"yesterday\"', \"yesterday\" is not a time",
        "'null', null is not a time",
        "'-5', -5 is not a time",
        "'1e300', 1.0E300 is not a time"
    })
    void aTimeThatCannotBeToldIsTheTimeOfArrivalWithANote(String at, String why) {
        Message message = message(TOLD, "{\"device\":{\"eui\":\"a\"},\"kind\":\"reading\",\"at\":" + at + "}");

        assertThat(message.eventTime()).isEqualTo(NOW);
        assertThat(message.note()).endsWith(why);
    }

    @ParameterizedTest
    @CsvSource({
        "2026-04-12 05:20:00, yyyy-MM-dd HH:mm:ss",
        "2026-04-12T05:20, yyyy-MM-dd'T'HH:mm",
        "2026-04-12T05:20:00.123, yyyy-MM-dd'T'HH:mm:ss.SSS"
    })
    void aLocalTimeSaysWhichFormToSetAndIsReadByIt(String at, String form) {
        String body = "{\"at\":\"" + at + "\"}";
        assertThat(message("{time: data.at}", body).note())
                .endsWith("is a local time without an offset; set the inlet's timeForm to \"" + form
                        + "\", and its zone");

        Message message = message("{time: data.at, timeForm: \"" + form + "\", zone: CET}", body);

        assertThat(message.note()).isNull();
        assertThat(message.eventTime()).isBetween("2026-04-12T03:20:00Z", "2026-04-12T03:20:01Z");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            rfc3339             | 1775964000              | 2026-04-12T03:20:00Z
            rfc3339             | 1775964000123           | 2026-04-12T03:20:00.123Z
            seconds             | 1775964000.5            | 2026-04-12T03:20:00.500Z
            seconds             | "1775964000"            | 2026-04-12T03:20:00Z
            millis              | 1775964000123           | 2026-04-12T03:20:00.123Z
            nanos               | 1775964000123456789     | 2026-04-12T03:20:00.123456Z
            dd.MM.yyyy HH:mm    | "12.04.2026 05:20"      | 2026-04-12T03:20:00Z
            yyyyMMddHHmmssX     | "20260412032000Z"       | 2026-04-12T03:20:00Z
            """)
    void readsTimesInTheFormAndZoneOfTheInlet(String form, String at, String time) {
        Message message =
                message("{time: data.at, timeForm: '" + form.strip() + "', zone: CET}", "{\"at\":" + at + "}");

        assertThat(message.eventTime()).isEqualTo(time);
        assertThat(message.note()).isNull();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            2026-03-29 02:30 | 2026-03-29T01:30:00Z | 2026-03-29T02:30 does not exist in CET, where clocks went forward over it; 03:30 was taken
            2025-10-26 02:30 | 2025-10-26T00:30:00Z | 2025-10-26T02:30 comes twice in CET, where clocks went back over it; the first was taken
            """)
    void saysWhatItTookAtTheChangesOfDaylightSaving(String at, String time, String note) {
        Known known = new Known(null, ZoneId.of("CET"), null);

        Message message = message("{time: data.at, timeForm: 'yyyy-MM-dd HH:mm'}", known, "{\"at\":\"" + at + "\"}");

        assertThat(message.eventTime()).isEqualTo(time);
        assertThat(message.note()).isEqualTo(note);
    }

    @Test
    void flagsClocksThatCannotBeRightAndKeepsTheirTime() {
        Known known = new Known(null, null, Instant.parse("2026-01-01T00:00:00Z"));

        Message ahead = message("time: data.at", known, "{\"at\":\"2026-04-12T05:20:00Z\"}");
        Message behind = message("time: data.at", known, "{\"at\":\"2000-01-01T00:00:00Z\"}");

        assertThat(ahead.eventTime()).isEqualTo("2026-04-12T05:20:00Z");
        assertThat(ahead.meta()).containsEntry("clock", "ahead");
        assertThat(ahead.note())
                .isEqualTo(
                        "the event time is 1 h 59 min after the arrival: the device's clock is ahead, or its time zone wrong");
        assertThat(behind.meta()).containsEntry("clock", "behind");
        assertThat(List.of(Meta.of(ahead).get("received"), Meta.of(ahead).get("eventTime")))
                .containsExactly(NOW, ahead.eventTime());
    }

    @Test
    void tellsSequenceAndWhatCopiesHaveInCommon() throws Exception {
        Inlet inlet = SetupSamples.inlet("{device: data.id, sequence: data.n, duplicates: {same: data.n, within: 5m}}");
        Arrival arrival = new Arrival(
                ids.next(), "in", Transport.NONE, null, "{\"id\":\"a\",\"n\":7}".getBytes(StandardCharsets.UTF_8));

        Opened opened = reader.open(arrival, inlet);

        assertThat(opened.origin().sequence()).isEqualTo(7);
        assertThat(opened.duplicateKey()).isEqualTo("7");
    }
}
