package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Devices, models, codecs and reading again. */
class DevicesOnTheCommandLineTest extends AsProcess {

    private static Client client;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
    }

    @AfterAll
    static void end() {
        service.close();
    }

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                models:
                  probe:
                    codec:
                      layout:
                        fields: [{name: t, bits: 8, unit: Cel}]
                inlets:
                  uplinks:
                    kind: http
                    at: {path: uplinks, credential: c}
                    device: data.id
                    payload: {bytes: data.payload}
                    unknown: {model: "'probe'"}
                  members:
                    kind: http
                    at: {path: members, credential: c}
                    device: data.id
                    unknown: {admit: false}
                """));
    }

    @Test
    void showsADeviceWithItsLastKnownValues() throws Exception {
        client.send("uplinks", "{\"id\":\"sp-1\",\"payload\":\"FQ==\"}");
        Client.await(
                () -> client.get("/api/v1/devices/one?key=sp-1"),
                one -> one.path("messages").asInt() == 1);
        assertThat(holtra("device", "set", "sp-1", "row=4", "--zone", "CET", "--silent-after", "3h")
                        .exit())
                .isZero();

        Ran shown = holtra("device", "show", "sp-1");

        assertThat(shown.out())
                .contains("sp-1  live")
                .contains("model     probe")
                .contains("facts     row=4");
        assertThat(shown.out()).containsPattern("t +21 ");
        assertThat(holtra("device", "list", "--state", "live").out()).contains("sp-1");
        assertThat(holtra("device", "list", "--state", "barred").out()).contains("No device is like that.");
        assertThat(holtra("device", "set", "sp-1", "--zone", "Nowhere").exit()).isEqualTo(5);
        assertThat(holtra("device", "bar", "sp-1").out()).isEqualTo("Device sp-1 is barred.\n");
        assertThat(holtra("device", "unbar", "sp-1").out()).isEqualTo("Device sp-1 is live.\n");
        assertThat(holtra("device", "forget", "sp-1").exit()).isZero();
        assertThat(holtra("device", "show", "sp-1").exit()).isEqualTo(5);
    }

    @Test
    void takesATableInOrSaysWhatIsWrongWithIt() throws Exception {
        Path table = folder.resolve("devices.csv");
        Files.writeString(table, "key,model,fact:row\nsp-2,probe,7\n");

        assertThat(holtra("device", "import", table.toString(), "--dry-run").out())
                .isEqualTo("Would change 0 and enter 1.\n");
        assertThat(holtra("device", "import", table.toString()).out()).isEqualTo("Changed 0 and enter 1.\n");
        assertThat(holtra("device", "export").out()).contains("sp-2,probe");
        Files.writeString(table, "name\nx\n");
        Ran wrong = holtra("device", "import", table.toString());
        assertThat(wrong.exit()).isEqualTo(1);
        assertThat(wrong.out()).contains("devices.csv:1 key: the first line names the columns");
    }

    @Test
    void claimsADeviceAndReadsItsMessagesAgain() throws Exception {
        String id = client.send("members", "{\"id\":\"m-1\"}");
        assertThat(holtra("trace", id).out()).contains("└ unclaimed: its device `m-1` is unknown");

        Ran claimed = holtra("device", "claim", "m-1", "orchard=Ashcombe");

        assertThat(claimed.out()).isEqualTo("1 looked at, 1 read now, 0 still not; 0 new deliveries, 0 corrections\n");
        assertThat(holtra("trace", id).out()).contains("read again on");
    }

    @Test
    void triesACodecWithoutAService() throws Exception {
        Path script = folder.resolve("codec.js");
        Files.writeString(
                script,
                "function decodeUplink(i) { if (!i.bytes.length) return { errors: ['nothing'] };"
                        + " return { data: { v: i.bytes[0], p: i.fPort, at: i.recvTime.getUTCFullYear() }, warnings: ['w'] }; }\n"
                        + "function encodeDownlink(i) { return { bytes: [i.data.v], fPort: 4 }; }");
        Path layout = folder.resolve("codec.yaml");
        Files.writeString(layout, "port: 9\nfields:\n  - {name: v, bits: 16, scale: 0.5}\n");

        Ran decoded = run(
                Map.of(),
                "",
                "codec",
                "try",
                script.toString(),
                "--bytes",
                "2a",
                "--port",
                "3",
                "--time",
                "2026-04-12T03:20:00Z");
        assertThat(decoded.exit()).isZero();
        assertThat(decoded.json().toString())
                .isEqualTo("{\"data\":{\"v\":42,\"p\":3,\"at\":2026},\"warnings\":[\"w\"],\"errors\":[]}");
        Ran failed = run(Map.of(), "", "codec", "try", script.toString(), "--bytes", "");
        assertThat(failed.exit()).isEqualTo(1);
        assertThat(failed.json().at("/errors/0").asString()).isEqualTo("nothing");
        assertThat(run(Map.of(), "", "codec", "try", layout.toString(), "--bytes", "00 03")
                        .json()
                        .at("/data/v")
                        .asDouble())
                .isEqualTo(1.5);
        assertThat(run(Map.of(), "", "codec", "try", layout.toString(), "--bytes", "%%")
                        .exit())
                .isEqualTo(2);

        Ran encoded = run(Map.of(), "", "codec", "encode", layout.toString(), "--data", "{\"v\":1.5}");
        assertThat(encoded.json().path("bytes").asString()).isEqualTo("0003");
        assertThat(encoded.json().path("fPort").asInt()).isEqualTo(9);
        assertThat(run(Map.of(), "", "codec", "encode", script.toString(), "--data", "{\"v\":7}")
                        .json()
                        .path("bytes")
                        .asString())
                .isEqualTo("07");
        assertThat(run(Map.of(), "", "codec", "encode", layout.toString(), "--data", "{}")
                        .exit())
                .isEqualTo(1);

        Files.writeString(layout, "fields:\n  - {name: v, bit: 16}\n");
        Ran wrong = run(Map.of(), "", "codec", "try", layout.toString(), "--bytes", "00");
        assertThat(wrong.exit()).isEqualTo(1);
        assertThat(wrong.json().path("errors").toString()).contains("line 2").contains("did you mean `bits`?");
    }

    @Test
    void attachesACodecToAModelAndReadsAgainWhatCameBefore() throws Exception {
        String id = client.send("uplinks", "{\"id\":\"sp-3\",\"payload\":\"\"}");
        assertThat(holtra("trace", id).out()).contains("└ unreadable: the codec of model probe");
        Path layout = folder.resolve("mended.yaml");
        Files.writeString(layout, "fields:\n  - {name: t, bits: 8, optional: true}\n");

        assertThat(holtra("model", "attach", "probe", layout.toString(), "--note", "may be empty")
                        .out())
                .contains("is active");

        assertThat(holtra("message", "reread", "--model", "probe", "--last", "5m", "--dry-run")
                        .out())
                .contains("1 read now")
                .contains("(nothing was changed)");
        assertThat(holtra("message", "reread", "--device", "sp-3").out()).contains("1 read now");
        assertThat(holtra("model", "list").out()).contains("probe").contains("layout");
        assertThat(holtra("model", "codec", "probe").out()).contains("optional: true");
        assertThat(holtra("model", "codec", "none").exit()).isEqualTo(5);
    }

    @Test
    void checkingASetupWarnsOfWhatCanHardlyBeMeant() throws Exception {
        Path setup = folder.resolve("setup.yaml");
        Files.writeString(setup, """
                models: {m: {fields: {a: {unit: Cel}, b: {unit: K}}}}
                inlets: {i: {kind: http, at: {path: i, credential: c}}}
                outlets: {o: {kind: http, to: {url: "http://127.0.0.1:9/"}}}
                lanes: {l: {inlets: [i], pick: data.a < data.b, outlet: o}}
                """);

        Ran checked = holtra("setup", "check", setup.toString());

        assertThat(checked.exit()).isZero();
        assertThat(checked.out())
                .contains("warning lanes.l.pick: data.a is in Cel and data.b in K")
                .contains("The setup is good.");
    }
}
