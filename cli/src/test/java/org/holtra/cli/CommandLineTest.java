package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.Receiver.Reply;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** The client as a process of its own, against a service on loopback. */
class CommandLineTest extends AsProcess {

    private static Client client;
    private static Receiver receiver;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        receiver = Receiver.answering(200);
    }

    @AfterAll
    static void end() {
        receiver.close();
        service.close();
    }

    @BeforeEach
    void setUp() {
        receiver.answer(n -> new Reply(200, "{}"));
        client.post("/api/v1/dead/drop", Map.of("all", true));
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(setup()));
    }

    private static String setup() {
        return """
                inlets:
                  masts: {kind: http, at: {path: masts, credential: c}, device: data.id}
                outlets:
                  desk: {kind: http, to: {url: "%s", credential: c}}
                lanes:
                  cold: {inlets: [masts], pick: data.t < 0, outlet: desk}
                """.formatted(receiver.address());
    }

    @Test
    void statusTellsHowThingsStand() throws Exception {
        Ran ran = holtra("status");

        assertThat(ran.exit()).isZero();
        assertThat(ran.out()).contains("1 inlets, 1 lanes, 1 outlets");
        assertThat(holtra("status", "--json").json().path("lanes").asInt()).isEqualTo(1);
    }

    @Test
    void statusFailsWhileAnOutletDoesNotFlow() throws Exception {
        receiver.answer(n -> new Reply(401, "{}"));
        client.send("masts", "{\"id\":\"a\",\"t\":-1}");
        Client.await(
                () -> client.get("/api/v1/status"),
                status -> !status.path("stopped").isEmpty());

        Ran ran = holtra("status");

        assertThat(ran.exit()).isEqualTo(1);
        assertThat(ran.out()).contains("outlet desk is blocked").contains("401");
        assertThat(holtra("outlet", "list").out()).contains("blocked");
        assertThat(holtra("lane", "list").out()).contains("stopped");
        receiver.answer(n -> new Reply(200, "{}"));
        assertThat(holtra("outlet", "try", "desk").exit()).isZero();
        Client.await(
                () -> client.get("/api/v1/status"),
                status -> status.path("stopped").isEmpty());
    }

    @Test
    void sendsAMessageAndTracesIt() throws Exception {
        Ran sent = run(access(), "{\"id\":\"wm-2\",\"t\":-4}", "send", "masts", "-");
        assertThat(sent.exit()).isZero();
        String id = sent.out().strip();
        client.traceWhen(id, trace -> Client.state(trace).equals("delivered"));

        Ran trace = holtra("trace", id, "--transport");

        assertThat(trace.exit()).isZero();
        assertThat(trace.out())
                .contains("by inlet masts")
                .contains("reading of wm-2")
                .contains("cold took it → desk: delivered")
                .contains("→ 200 delivered")
                .contains("Authorization: Bearer •••")
                .contains("{\"id\":\"wm-2\",\"t\":-4}");
        assertThat(holtra("trace", id, "--json").json().at("/lanes/0/state").asString())
                .isEqualTo("delivered");
    }

    @Test
    void aTraceSaysWhyALaneDidNotTakeTheMessage() throws Exception {
        String id = holtra("send", "masts", "{\"id\":\"wm-3\",\"t\":4}").out().strip();

        assertThat(holtra("trace", id).out()).contains("cold did not take it: `data.t < 0` is false (data.t is 4)");
    }

    @Test
    void balanceExitsWithOneIfAnythingIsMissing() throws Exception {
        holtra("send", "masts", "{\"id\":\"wm-4\",\"t\":-4}");
        Client.await(
                () -> client.get("/api/v1/balance"),
                balance -> balance.at("/lanes/0/waiting").asInt() == 0
                        && balance.at("/intake/unacknowledged").asInt() == 0);
        Ran good = holtra("balance");
        assertThat(good.out()).contains("Balanced: nothing is missing.");
        assertThat(good.exit()).isZero();

        service.database().execute("create table gone as select * from outcome limit 1");
        service.database().execute("delete from outcome where delivery in (select delivery from gone)");
        Ran bad = holtra("balance", "--last", "2h");
        service.database().execute("insert into outcome select * from gone");
        service.database().execute("drop table gone");

        assertThat(bad.exit()).isEqualTo(1);
        assertThat(bad.out()).contains("1 are missing.");
        assertThat(holtra("balance", "--json").json().path("missing").asInt()).isZero();
        assertThat(holtra("balance", "--last", "soon").exit()).isEqualTo(2);
    }

    @Test
    void deadLettersAreListedRetriedAndDropped() throws Exception {
        receiver.answer(n -> new Reply(422, "{}"));
        holtra("send", "masts", "{\"id\":\"wm-5\",\"t\":-4}");
        client.send("masts", "{\"id\":\"wm-6\",\"t\":-4}");
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("total").asInt() == 2);

        Ran list = holtra("dead", "list");
        assertThat(list.out()).contains("wm-5").contains("422").contains("the destination answered 422");
        String delivery = holtra("dead", "list", "--json")
                .json()
                .at("/letters/0/delivery")
                .asString();
        String name = holtra("dead", "drop", delivery, "--json")
                .json()
                .at("/job/name")
                .asString();
        receiver.answer(n -> new Reply(200, "{}"));
        assertThat(holtra("dead", "retry", "--lane", "cold").out()).contains("1 are tried again.");

        Ran undone = holtra("job", "undo", name);
        assertThat(undone.out()).contains("1 were taken back.");
        assertThat(holtra("job", "list").out()).contains("drop", "1 taken back by");
        assertThat(holtra("dead", "drop", "--all", "--preview").out()).contains("cold");
        assertThat(holtra("dead", "drop", "--all").out()).contains("1 were dropped.");
        Ran counted = holtra("replay", "cold", "--last", "1h");
        assertThat(counted.out()).contains("Nothing was sent; --go delivers them.");
        Ran replayed = holtra("replay", "cold", "--last", "1h", "--go");
        assertThat(replayed.out()).contains("Replay r").contains("again.");
        assertThat(holtra("job", "stop", "r999").exit()).isEqualTo(5);

        Ran none = holtra("dead", "retry", "--all");
        assertThat(none.exit()).isEqualTo(1);
        assertThat(none.out()).contains("There was no such dead letter.");
        assertThat(holtra("dead", "drop").exit()).isEqualTo(2);
        assertThat(holtra("dead", "list").out()).contains("There are no dead letters.");
    }

    @Test
    void setupsAreCheckedAdoptedExportedAndUndone() throws Exception {
        Path file = folder.resolve("setup.yaml");
        Files.writeString(file, setup().replace("pick:", "pik:"));
        Ran wrong = holtra("setup", "check", file.toString());
        assertThat(wrong.exit()).isEqualTo(1);
        assertThat(wrong.out())
                .contains("setup.yaml:6:")
                .contains("did you mean `pick`?")
                .contains("1 to mend.");
        Ran refused = holtra("setup", "adopt", file.toString());
        assertThat(refused.exit()).isEqualTo(5);
        assertThat(refused.err()).contains("Not adopted").contains("line 6").contains("did you mean `pick`?");

        Files.writeString(file, setup() + "# by hand\n");
        assertThat(holtra("setup", "check", file.toString()).out()).contains("The setup is good.");
        Ran adopted = holtra("setup", "adopt", file.toString(), "--note", "a try");
        assertThat(adopted.out()).matches("Revision \\d+ is active.\n");
        assertThat(holtra("setup", "export").out()).isEqualTo(setup() + "# by hand\n");
        assertThat(holtra("setup", "revisions").out()).contains("a try").contains("key first-start");
        int before = client.get("/api/v1/status").path("setupRevision").asInt() - 1;
        assertThat(holtra("setup", "undo", Integer.toString(before)).exit()).isZero();
        assertThat(holtra("setup", "export").out()).isEqualTo(setup());
        assertThat(holtra("setup", "check", folder.resolve("none").toString()).exit())
                .isEqualTo(2);
    }

    @Test
    void listsTellWhatThereIs() throws Exception {
        client.send("masts", "{\"id\":\"wm-7\",\"t\":4}");
        assertThat(holtra("device", "set", "wm-7", "row=4", "orchard=Dunmere", "--model", "mast")
                        .exit())
                .isZero();

        assertThat(holtra("inlet", "list").out()).contains("/in/masts");
        assertThat(holtra("lane", "list", "--json").json().at("/0/lane").asString())
                .isEqualTo("cold");
        assertThat(holtra("device", "list").out()).contains("orchard=Dunmere row=4");
        JsonNode device = holtra("device", "set", "wm-7", "row=", "--json").json();
        assertThat(device.at("/facts/row").isMissingNode()).isTrue();
        assertThat(device.path("revision").asInt()).isEqualTo(3);
    }

    @Test
    void everyPartOfTheSetupIsShownAsTheFileHasIt() throws Exception {
        Ran shown = holtra("inlet", "show", "masts");

        assertThat(shown.exit()).isZero();
        assertThat(shown.out()).contains("at: {path: masts, credential: c}").contains("# used by lane cold");
        assertThat(holtra("lane", "show", "cold").out()).contains("outlet: desk");
        assertThat(holtra("outlet", "show", "desk").out()).contains("kind: http");
        assertThat(holtra("outlet", "show", "desk", "--json")
                        .json()
                        .at("/content/kind")
                        .asString())
                .isEqualTo("http");
        Ran none = holtra("lane", "show", "nowhere");
        assertThat(none.exit()).isEqualTo(5);
        assertThat(none.err()).contains("There is no lane `nowhere`");
        assertThat(holtra("outlet", "remove", "desk").err()).contains("cold");
    }

    @Test
    void messagesAreListedAndOneIsShown() throws Exception {
        String id = holtra("send", "masts", "{\"id\":\"wm-listed\",\"t\":1}", "--json")
                .json()
                .path("id")
                .asString();

        Ran listed = holtra("message", "list", "--device", "wm-listed");

        assertThat(listed.out()).contains(id).contains("masts").contains("read");
        assertThat(holtra("message", "list", "--device", "nobody").out()).contains("No such messages");
        assertThat(holtra("message", "list", "--state", "lost").err()).contains("is no state");
        assertThat(holtra("message", "show", id, "--transport").out())
                .contains(id)
                .contains("address: ");
    }

    @Test
    void credentialsAreSavedFromStandardInputWithWhatWasNoticed() throws Exception {
        Ran saved = run(access(), "Bearer Bearer abc\n", "credential", "set", "new-one", "--form", "bearer");

        assertThat(saved.exit()).isZero();
        assertThat(saved.out()).contains("The word Bearer before the token was removed");
        assertThat(holtra("credential", "list").out()).contains("new-one").doesNotContain("abc");
        assertThat(run(access(), "x", "credential", "set", "bad", "--form", "basic")
                        .err())
                .contains("The user is missing.");
        assertThat(holtra("credential", "forms").out())
                .contains("basic")
                .contains("password")
                .contains("signature");
        assertThat(run(access(), "pass-word", "credential", "set", "desk", "--form", "basic", "--field", "user=ada")
                        .exit())
                .isZero();
        assertThat(holtra("credential", "make", "made").out().strip()).hasSize(43);
        assertThat(holtra("credential", "remove", "new-one").exit()).isZero();
        assertThat(holtra("credential", "remove", "c").exit()).isEqualTo(5);
    }

    @Test
    void followShowsMessagesAsTheyCome() throws Exception {
        Process follow =
                process(access(), "follow", "--device", "wm-8", "--count", "2").start();
        try (BufferedReader lines = new BufferedReader(new InputStreamReader(follow.getInputStream()))) {
            // Until it listens, nothing tells that it does: send until it has seen two.
            Client.await(
                    () -> {
                        client.send("masts", "{\"id\":\"wm-other\",\"t\":4}");
                        client.send("masts", "{\"id\":\"wm-8\",\"t\":-4}");
                        return follow.isAlive();
                    },
                    alive -> !alive);
            List<String> shown = lines.lines().toList();
            assertThat(shown).hasSize(2).allMatch(line -> line.contains("wm-8") && line.contains("→ cold"));
            assertThat(follow.waitFor()).isZero();
        }
    }

    @Test
    void exitCodesTellWhatWentWrong() throws Exception {
        assertThat(holtra("nonsense").exit()).isEqualTo(2);
        assertThat(holtra("send", "masts").exit()).isEqualTo(2);
        Ran away = run(Map.of("HOLTRA_SERVER", "http://127.0.0.1:1", "HOLTRA_API_KEY", "x"), "", "status");
        assertThat(away.exit()).isEqualTo(3);
        assertThat(away.err()).contains("cannot be reached");
        try (ServerSocket paused = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
            String address = "http://127.0.0.1:" + paused.getLocalPort();
            Ran silent = run(Map.of("HOLTRA_SERVER", address, "HOLTRA_API_KEY", "x"), "", "status");
            assertThat(silent.exit()).isEqualTo(3);
            assertThat(silent.err()).contains("has not answered for 10 s");
        }
        Ran nowhere = run(Map.of(), "", "status");
        assertThat(nowhere.exit()).isEqualTo(3);
        assertThat(nowhere.err()).contains("No service is named");
        Ran locked = run(Map.of("HOLTRA_SERVER", service.address(), "HOLTRA_API_KEY", "wrong"), "", "status");
        assertThat(locked.exit()).isEqualTo(4);
        assertThat(locked.err()).contains("Give a key");
        Ran unknown = holtra("trace", "6f1b7c1e-3b0a-4c55-9d0e-0d6f3a1b2c3d");
        assertThat(unknown.exit()).isEqualTo(5);
        assertThat(unknown.err()).contains("version 7");
        assertThat(holtra("send", "nowhere", "{}").err()).contains("There is no inlet `nowhere`.");
    }

    @Test
    void theServersAddressAndKeyComeFromFlagsEnvironmentOrConfigFile() throws Exception {
        Path file = Files.createDirectories(folder.resolve("holtra")).resolve("client.properties");
        Files.writeString(file, "server=" + service.address() + "\nkey=" + service.key() + "\n");
        assertThat(run(Map.of(), "", "status").exit()).isZero();
        assertThat(run(Map.of("HOLTRA_API_KEY", "wrong"), "", "status").exit()).isEqualTo(4);
        assertThat(run(Map.of("HOLTRA_API_KEY", "wrong"), "", "status", "--key", service.key())
                        .exit())
                .isZero();
        Files.delete(file);
        Path demo = folder.resolve("demo.json");
        Files.writeString(demo, "{\"console\":\"" + service.address() + "\",\"key\":\"" + service.key() + "\"}");
        assertThat(run(Map.of("HOLTRA_DEMO_FILE", demo.toString()), "", "status")
                        .exit())
                .isZero();
    }

    @Test
    void completionCanBeMade() throws Exception {
        assertThat(holtra("generate-completion").out()).contains("complete -F").contains("balance");
    }
}
