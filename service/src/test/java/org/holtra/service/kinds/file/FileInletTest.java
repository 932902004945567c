package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Messages that are read from the files of a real folder. */
class FileInletTest {

    @TempDir
    private Path files;

    private Path in;
    private TestService service;
    private Client client;
    private Receiver receiver;

    @BeforeEach
    void start() throws IOException {
        in = Files.createDirectory(files.resolve("in"));
        receiver = Receiver.answering(200);
        service = TestService.start(TestDatabase.fresh(), Map.of("holtra.files-folder", files.toString()));
        client = service.client();
    }

    @AfterEach
    void end() {
        service.close();
        receiver.close();
    }

    private void adopt(String more) {
        Client.good(client.adopt("""
                inlets:
                  f: {kind: file, at: {folder: in, every: 100ms%s}, device: data.id}
                outlets:
                  r: {kind: http, to: {url: "%s"}}
                lanes:
                  r: {inlets: [f], outlet: r, order: device, shape: {body: {n: "${data.n}"}}}
                """.formatted(more, receiver.address())));
    }

    private List<String> came(int number) {
        return Client.await(
                () -> receiver.came().stream()
                        .map(one -> Client.JSON.readTree(one.body()).path("n").asString())
                        .toList(),
                all -> all.size() >= number);
    }

    private static String line(int number) {
        return "{\"id\":\"d\",\"n\":\"" + number + "\"}\n";
    }

    private JsonNode inlet() {
        return client.get("/api/v1/inlets").get(0);
    }

    @Test
    void eachLineIsAMessageAndWhatIsAppendedLaterIsReadToo() throws IOException {
        Path file = Files.writeString(in.resolve("a.jsonl"), line(1) + line(2));
        adopt("");
        assertThat(came(2)).containsExactly("1", "2");

        Files.writeString(file, line(3) + "{\"id\":\"d\"", StandardOpenOption.APPEND);
        assertThat(came(3)).containsExactly("1", "2", "3");
        Files.writeString(file, ",\"n\":\"4\"}\n", StandardOpenOption.APPEND);

        assertThat(came(4)).containsExactly("1", "2", "3", "4");
        JsonNode balance = client.get("/api/v1/balance");
        assertThat(balance.path("missing").asInt()).isZero();
        assertThat(inlet().at("/connection/state").asString()).isEqualTo("connected");
    }

    @Test
    void rowsOfCsvAreReadByTheNamesOfTheirColumns() throws IOException {
        adopt(", files: \"*.csv\"");
        Files.writeString(in.resolve("a.csv"), "id,n\nd,1\nd,2\n");
        Files.writeString(in.resolve("other.txt"), "nothing of ours\n");

        assertThat(came(2)).containsExactly("1", "2");
    }

    @Test
    void aFileThatIsAMessageIsReadOnceItIsLeftAloneAndMovedAway() throws IOException {
        adopt(", each: file, after: move");
        Path written = Files.writeString(files.resolve("b.json"), "{\"id\":\"d\",\n\"n\":\"1\"}");
        Files.move(written, in.resolve("b.json"), StandardCopyOption.ATOMIC_MOVE);

        assertThat(came(1)).containsExactly("1");
        Client.await(() -> Files.exists(in.resolve("done/b.json")), there -> there);
        assertThat(in.resolve("b.json")).doesNotExist();
    }

    @Test
    void whatWasReadIsNotReadAgainAfterARestart() throws IOException {
        Path file = Files.writeString(in.resolve("a.jsonl"), line(1) + line(2));
        adopt("");
        came(2);
        service.close();
        Files.writeString(file, line(3), StandardOpenOption.APPEND);

        service = service.again();
        client = service.client();

        assertThat(came(3)).containsExactly("1", "2", "3");
        assertThat(client.get("/api/v1/messages").path("messages")).hasSize(3);
    }

    @Test
    void ofTwoNodesOneReadsAndTheOtherOnceThatIsGone() throws IOException {
        Path file = Files.writeString(in.resolve("a.jsonl"), line(1));
        adopt("");
        came(1);
        try (TestService other = service.beside()) {
            Client.await(
                    () -> other.client()
                            .get("/api/v1/inlets")
                            .get(0)
                            .at("/connection/reason")
                            .asString(""),
                    reason -> reason.equals("node one runs it"));
            Files.writeString(file, line(2), StandardOpenOption.APPEND);
            came(2);

            service.close();
            Files.writeString(file, line(3), StandardOpenOption.APPEND);

            assertThat(came(3)).containsExactly("1", "2", "3");
            assertThat(other.client().get("/api/v1/messages").path("messages")).hasSize(3);
        }
    }

    @Test
    void aFolderThatIsNotThereIsToldAndReadOnceItIs() throws IOException {
        Files.delete(in);
        adopt("");
        Client.await(
                () -> inlet().at("/connection/reason").asString(""), reason -> reason.contains("there is no folder"));

        Files.createDirectory(in);
        Files.writeString(in.resolve("a.jsonl"), line(1));

        came(1);
        List<String> diary = Client.await(
                () -> client.get("/api/v1/inlets/f/diary")
                        .valueStream()
                        .map(one -> one.path("line").asString())
                        .toList(),
                lines -> lines.size() >= 2 && lines.getFirst().startsWith("connected: reads"));
        assertThat(diary.get(1)).startsWith("waiting to try again: there is no folder");
        assertThat(client.keyed("GET", "/api/v1/inlets/nobody/diary", null, "application/json")
                        .status())
                .isEqualTo(404);
    }

    @Test
    void aFolderElsewhereOnTheMachineIsRefusedAndTheInletSaysWhy() {
        Client.good(client.adopt("inlets: {f: {kind: file, at: {folder: ../..}}}"));

        Client.await(
                () -> client.get("/api/v1/status").path("troubles").toString(),
                troubles -> troubles.contains("inlet f cannot be opened")
                        && troubles.contains("does not lie beneath that of HOLTRA_FILES"));
        assertThat(inlet().at("/connection/state").asString()).isEqualTo("broken");
    }

    @Test
    void aClosedInletReadsNothingUntilItIsOpened() throws IOException {
        adopt("");
        Client.good(client.post("/api/v1/setup/parts/inlets/f/close", Map.of()));
        Client.await(() -> inlet().at("/connection/state").asString(), state -> state.equals("closed"));
        Files.writeString(in.resolve("a.jsonl"), line(1));

        Client.good(client.post("/api/v1/setup/parts/inlets/f/open", Map.of()));

        assertThat(came(1)).containsExactly("1");
    }

    private JsonNode checked(String at) {
        return Client.good(client.post(
                        "/api/v1/inlets/fresh/check",
                        Map.of("fields", Map.of("kind", "file", "at", Client.JSON.readTree(at)))))
                .json();
    }

    @Test
    void aCheckTellsHowManyFilesFitAndWhetherTheFolderCanBeUsed() throws IOException {
        Files.writeString(in.resolve("a.jsonl"), line(1));
        Files.writeString(in.resolve("b.txt"), line(2));

        JsonNode good = checked("{\"folder\": \"in\", \"files\": \"*.jsonl\", \"after\": \"delete\"}");
        assertThat(good.findValuesAsString("result")).containsExactly("passed", "passed", "passed");
        assertThat(good.get(1).path("told").asString()).isEqualTo("1 file fits *.jsonl");
        assertThat(in).isDirectoryContaining(file -> file.endsWith("a.jsonl"));

        JsonNode missing = checked("{\"folder\": \"later\"}");
        assertThat(missing.findValuesAsString("result")).containsExactly("passed", "uncertain");

        JsonNode outside = checked("{\"folder\": \"../outside\"}");
        assertThat(outside.findValuesAsString("result")).containsExactly("failed");
        assertThat(outside.get(0).path("mend").asString()).contains("HOLTRA_FILES");
    }
}
