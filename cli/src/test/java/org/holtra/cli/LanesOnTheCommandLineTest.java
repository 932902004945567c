package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Lanes tried, rehearsed, opened and closed. */
class LanesOnTheCommandLineTest extends AsProcess {

    private static Client client;
    private static Receiver desk;

    private static final String SETUP = """
            inlets:
              stations: {kind: http, at: {path: stations, credential: c}, device: data.id}
            outlets:
              desk: {kind: http, to: {url: "@desk@"}}
            lanes:
              frost:
                inlets: [stations]
                pick: data.t < 0 && device.facts.prone
                outlet: desk
                shape: {path: /frost, body: {t: "${data.t}"}}
            """;

    @TempDir
    private Path folder;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        desk = Receiver.answering(200);
    }

    @AfterAll
    static void end() {
        desk.close();
        service.close();
    }

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(SETUP.replace("@desk@", desk.address())));
        Client.good(client.put("/api/v1/devices/one?key=cs-1", Map.of("facts", Map.of("prone", true))));
    }

    private Path changed() throws Exception {
        Path file = folder.resolve("setup.yaml");
        return Files.writeString(
                file,
                SETUP.replace("@desk@", desk.address())
                        .replace("data.t < 0", "data.t < 5")
                        .replace("{t: ", "{celsius: "));
    }

    @Test
    void aTryShowsTheExactRequestOrWhyThereIsNone() throws Exception {
        String id = client.send("stations", "{\"id\":\"cs-1\",\"t\":-2}");

        Ran picked = holtra("lane", "try", "frost", "--message", id);
        assertThat(picked.exit()).isZero();
        assertThat(picked.out())
                .contains(
                        "picked\n",
                        "data.t < 0  =  true",
                        "POST " + desk.address() + "/frost\n",
                        "Idempotency-Key: " + id + ".frost\n")
                .endsWith("{\"t\":-2}\n");

        Ran not = holtra("lane", "try", "frost", "--message", id, "--fact", "prone=false");
        assertThat(not.exit()).isEqualTo(1);
        assertThat(not.out()).contains("not picked  `device.facts.prone` is false");
        assertThat(holtra("lane", "try", "nowhere", "--message", id).exit()).isEqualTo(5);
    }

    @Test
    void aTryTakesALaneFromAFileAndAMessageFromAFile() throws Exception {
        Path body = Files.writeString(folder.resolve("body.json"), "{\"id\":\"cs-1\",\"t\":3}");

        Ran tried = holtra("lane", "try", "frost", "--setup", changed().toString(), "--body", body.toString());

        assertThat(tried.exit()).as(tried.out() + tried.err()).isZero();
        assertThat(tried.out()).contains("as pasted").endsWith("{\"celsius\":3}\n");
    }

    @Test
    void aTrialIsSentOnlyWhenItIsAskedFor() throws Exception {
        String id = client.send("stations", "{\"id\":\"cs-1\",\"t\":7}");

        Ran sent = holtra("lane", "try", "frost", "--message", id, "--send");

        assertThat(sent.out()).contains("Sent as a trial: delivered, answered 200. Its trace: holtra trace " + id);
        assertThat(desk.came()).anyMatch(came -> (id + ".frost.trial").equals(came.header("Idempotency-Key")));
        assertThat(holtra("trace", id).out()).contains("trial");
    }

    @Test
    void aRehearsalTellsWhatWouldBeOtherwise() throws Exception {
        client.send("stations", "{\"id\":\"cs-1\",\"t\":-3}");
        client.send("stations", "{\"id\":\"cs-1\",\"t\":4}");

        Ran same = holtra("lane", "rehearse", "frost", "--count", "2");
        assertThat(same.exit()).isZero();
        Ran other = holtra("lane", "rehearse", "frost", "--setup", changed().toString(), "--count", "2");

        assertThat(other.exit()).isEqualTo(1);
        assertThat(other.out())
                .contains("2 messages looked at", "the active lane took 1, this one takes 2")
                .contains(
                        "    1  taken now",
                        "    1  other content",
                        "body.t: -3  >  nothing",
                        "body.celsius: nothing  >  -3");
    }

    @Test
    void aLaneWithMemoryIsTriedAndRehearsedWithIt() throws Exception {
        String memory = SETUP.replace("@desk@", desk.address())
                .replace(
                        "pick: data.t < 0 && device.facts.prone",
                        "memory: {downsample: {every: %s, fields: {t: mean}}}");
        Client.good(client.adopt(memory.formatted("1h")));
        client.send("stations", "{\"id\":\"cs-1\",\"t\":-3}");
        String id = client.send("stations", "{\"id\":\"cs-1\",\"t\":4}");
        Path file = Files.writeString(folder.resolve("memory.yaml"), memory.formatted("2h"));

        Ran tried = holtra("lane", "try", "frost", "--message", id);
        Ran same = holtra("lane", "rehearse", "frost", "--count", "2");
        Ran other = holtra("lane", "rehearse", "frost", "--setup", file.toString(), "--count", "2");

        assertThat(tried.out()).contains("memory   it becomes part of a message made of ", "if nothing more comes");
        assertThat(same.exit()).as(same.out() + same.err()).isZero();
        assertThat(same.out()).contains("Its memory made 0 messages of 0", "and has 2 still; the active lane made 0");
        assertThat(other.exit()).isEqualTo(1);
        assertThat(other.out()).contains("It remembers otherwise than the active lane");
    }

    @Test
    void aMessageIsSentManyTimesUntilOneIsNotTaken() throws Exception {
        assertThat(holtra("send", "stations", "{\"id\":\"cs-1\",\"t\":9}", "--times", "3")
                        .out())
                .isEqualTo("3 were taken.\n");
        holtra("inlet", "close", "stations");

        Ran refused = holtra("send", "stations", "{\"id\":\"cs-1\",\"t\":9}", "--times", "3");

        assertThat(refused.exit()).isPositive();
        assertThat(refused.err()).contains("0 of 3 were taken.");
        holtra("inlet", "open", "stations");
    }

    @Test
    void lanesInletsAndOutletsOpenAndClose() throws Exception {
        assertThat(holtra("lane", "close", "frost").out()).startsWith("Lane frost is closed, setup revision ");
        assertThat(holtra("lane", "list").out()).contains("closed");
        client.send("stations", "{\"id\":\"cs-1\",\"t\":-3}");
        assertThat(holtra("lane", "remove", "frost").exit()).isEqualTo(5);
        assertThat(holtra("lane", "open", "frost").out()).startsWith("Lane frost is open");
        assertThat(holtra("inlet", "close", "stations").exit()).isZero();
        assertThat(holtra("inlet", "list").out()).contains("closed");
        assertThat(holtra("outlet", "close", "desk").exit()).isZero();
        assertThat(holtra("outlet", "list").out()).contains("closed");
        assertThat(holtra("lane", "close", "nowhere").exit()).isEqualTo(5);
    }

    @Test
    void aSecretIsRotated() throws Exception {
        Ran rotated = holtra("credential", "rotate", "c", "--overlap", "2h");

        assertThat(rotated.out().strip()).hasSizeGreaterThan(30);
        int old = client.call("POST", "/in/stations", "{}".getBytes(), "Authorization", "Bearer token-token")
                .status();
        assertThat(old).isEqualTo(202);
        assertThat(holtra("credential", "rotate", "c", "--overlap", "long").exit())
                .isEqualTo(5);
    }

    @Test
    void aLaneIsRemovedWithWhatItOwesWhenItsNameIsTypedOnceMore() throws Exception {
        holtra("lane", "close", "frost");
        String id = client.send("stations", "{\"id\":\"cs-1\",\"t\":-3}");

        assertThat(holtra("lane", "remove", "frost", "--drop", "other").exit()).isEqualTo(5);
        assertThat(holtra("lane", "remove", "frost", "--drop", "frost").exit()).isZero();

        assertThat(Client.state(client.trace(id))).isEqualTo("dropped");
    }
}
