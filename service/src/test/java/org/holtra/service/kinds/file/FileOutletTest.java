package org.holtra.service.kinds.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Deliveries that are appended to files of a real folder. */
class FileOutletTest {

    @TempDir
    private Path files;

    private TestService service;
    private Client client;

    @BeforeEach
    void start() {
        service = TestService.start(TestDatabase.fresh(), Map.of("holtra.files-folder", files.toString()));
        client = service.client();
        client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
    }

    @AfterEach
    void end() {
        service.close();
    }

    private void adopt(String to, String more, String shape) {
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  f: {kind: file, to: {folder: out, %s}%s}
                lanes:
                  f: {inlets: [s], outlet: f, shape: {%s}}
                """.formatted(to, more, shape)));
    }

    private String send(int number) {
        return client.send("s", "{\"id\":\"d-" + number + "\",\"n\":" + number + "}");
    }

    private List<Path> found(String glob) {
        try (Stream<Path> all = Files.list(files.resolve("out"))) {
            return all.filter(file ->
                            file.getFileSystem().getPathMatcher("glob:" + glob).matches(file.getFileName()))
                    .sorted()
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Test
    void aDeliveryIsALineThatIsOnTheDiskOnceItIsDelivered() {
        adopt("file: r.jsonl", "", "body: {n: \"${data.n}\"}");

        String id = send(1);
        JsonNode trace = client.traceWhen(id, one -> Client.state(one).equals("delivered"));

        assertThat(found(".r.jsonl.*").getFirst()).hasContent("{\"n\":1}\n");
        JsonNode attempt = trace.at("/lanes/0/attempts/0");
        assertThat(attempt.at("/request/summary").asString()).isEqualTo("append to " + files.resolve("out/r.jsonl"));
        assertThat(attempt.path("code").asString()).isEqualTo("written");
    }

    @Test
    void manyGoTogetherAndFilesGetTheirFinalNameWhenTheyAreLargeEnough() throws IOException {
        adopt(
                "file: r.csv, rollBytes: 100",
                ", batch: {messages: 20, wait: 50ms}",
                "format: csv, body: {id: \"${device.key}\", n: \"${data.n}\"}");
        List<String> ids =
                Stream.iterate(1, n -> n + 1).limit(40).map(this::send).toList();
        ids.forEach(id -> client.traceWhen(id, one -> Client.state(one).equals("delivered")));

        List<String> rows = Stream.concat(found("r-*.csv").stream(), found(".r.csv.*").stream())
                .flatMap(file -> {
                    try {
                        List<String> lines = Files.readAllLines(file);
                        assertThat(lines.getFirst()).isEqualTo("id,n");
                        return lines.stream().skip(1);
                    } catch (IOException e) {
                        throw new UncheckedIOException(e);
                    }
                })
                .sorted()
                .toList();
        assertThat(found("r-*.csv")).isNotEmpty();
        assertThat(rows)
                .containsExactlyInAnyOrderElementsOf(Stream.iterate(1, n -> n + 1)
                        .limit(40)
                        .map(n -> "d-" + n + "," + n)
                        .toList());
    }

    @Test
    void rowsOfABatchStandUnderTheNamesOfTheirOwnColumns() throws IOException {
        adopt("file: r.csv", ", batch: {messages: 10, wait: 1s}", "format: csv, body: \"${data}\"");
        List<String> ids = List.of(
                client.send("s", "{\"id\":\"a-1\",\"n\":1}"),
                client.send("s", "{\"id\":\"a-2\",\"n\":2}"),
                client.send("s", "{\"id\":\"b-1\",\"pressure\":3}"),
                client.send("s", "{\"id\":\"a-3\",\"n\":4}"));
        ids.forEach(id -> client.traceWhen(id, one -> Client.state(one).equals("delivered")));

        for (Path file : Stream.concat(found("r-*.csv").stream(), found(".r.csv.*").stream())
                .toList()) {
            List<String> lines = Files.readAllLines(file);
            String prefix = lines.getFirst().equals("id,pressure") ? "b-" : "a-";
            assertThat(lines.getFirst()).isIn("id,n", "id,pressure");
            assertThat(lines.subList(1, lines.size())).isNotEmpty().allMatch(line -> line.startsWith(prefix));
        }
        assertThat(found("*.csv*")).hasSizeGreaterThan(1);
    }

    @Test
    void whatAShapeSaysThatAFileHasNoPlaceForIsAnError() {
        Client.Answer answer = client.adopt("""
                outlets:
                  f: {kind: file, to: {folder: out, file: r.jsonl}}
                lanes:
                  f: {inlets: [holtra], outlet: f, shape: {path: /x}}
                """);

        assertThat(answer.body()).contains("`path` is no part of a shape for this outlet");
    }

    @Test
    void aContentOfSeveralLinesIsRefused() {
        adopt("file: r.txt", "", "format: text, body: \"a\\nb\"");

        JsonNode trace = client.traceWhen(send(1), one -> Client.state(one).equals("dead"));

        assertThat(trace.at("/lanes/0/reason").asString()).contains("appends a line each");
    }

    @Test
    void aFolderThatCannotBeMadeIsTriedAgain() throws IOException {
        Files.writeString(files.resolve("out"), "a file where the folder should be");
        adopt("file: r.jsonl", "", "body: {n: \"${data.n}\"}");
        String id = send(1);
        client.traceWhen(id, one -> one.at("/lanes/0/attempts").size() >= 1);
        assertThat(Client.state(client.trace(id))).isEqualTo("waiting");

        Files.delete(files.resolve("out"));

        client.traceWhen(id, one -> Client.state(one).equals("delivered"));
        List<String> diary = Client.await(
                () -> client.get("/api/v1/outlets/f/diary")
                        .valueStream()
                        .map(one -> one.path("line").asString())
                        .toList(),
                lines -> lines.size() >= 2);
        assertThat(diary.getFirst()).isEqualTo("flowing");
        assertThat(diary.get(1)).startsWith("broken: the file cannot be written");
    }
}
