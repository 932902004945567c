package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;

/** Lines read from files, and lines appended to files, beside the same messages by HTTP. */
record FileBench(Database database, double seconds, Notebook notebook) {

    private static final int CONNECTIONS = 32;
    private static final int ROUNDS = 5;
    private static final int WARMING = 20_000;
    private static final long LONGEST_NANOS = 300_000_000_000L;

    private static final String SETUP = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
              lines: {kind: file, at: {folder: in, files: "*.jsonl", every: 1s}, format: json, device: data.id}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
              archive: {kind: file, to: {folder: out, file: bench.jsonl}, batch: {messages: 100, wait: 100ms}}
              sink: {kind: http, to: {url: "%s/o0", concurrency: 32}}
            lanes:
              taken: {inlets: [lines], outlet: out}
              archived: {inlets: [bench], pick: %s, outlet: archive}
              sent: {inlets: [bench], pick: %s, outlet: sink}
            """;

    void run() throws IOException {
        Database its = database.fresh();
        try (Sink sink = new Sink();
                Running holtra = Running.holtra(its, null)) {
            Load load = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            holtra.adopt(SETUP.formatted(sink.address(), "false", "false"));
            Path in = Files.createDirectories(holtra.folder().resolve("files").resolve("in"));
            double posted = 0;
            double read = 0;
            int lines = (int) Math.max(WARMING, 10_000 * seconds);
            for (int round = 0; round < ROUNDS; round++) {
                posted = load.full(0, WARMING).rate();
                read = read(its, in, "lines-" + round, round == ROUNDS - 1 ? lines : WARMING);
            }
            notebook.note("intake by http, " + CONNECTIONS + " connections, beside files", rate(posted), "");
            notebook.note("lines read from a file", rate(read), ratio(read / posted) + " of those by http");
            double sent = through(its, holtra, load, sink, "sent");
            double archived = through(its, holtra, load, sink, "archived");
            notebook.note("from one end to the other to http", rate(sent), "");
            notebook.note(
                    "  to lines of a file, 100 a batch", rate(archived), ratio(archived / sent) + " of those to http");
        }
        its.drop();
    }

    /** Lines a second, from when the file is there. */
    private static double read(Database its, Path in, String name, int lines) throws IOException {
        long before = its.number("select count(*) from message");
        Path written = in.resolve(name + ".tmp");
        try (OutputStream out = Files.newOutputStream(written)) {
            for (int number = 0; number < lines; number++) {
                out.write(Body.of(number, Load.DEVICES));
                out.write('\n');
            }
        }
        long began = System.nanoTime();
        Files.move(written, in.resolve(name + ".jsonl"), StandardCopyOption.ATOMIC_MOVE);
        await(its, "select count(*) from message", before + lines);
        return lines / ((System.nanoTime() - began) / 1e9);
    }

    private static double through(Database its, Running holtra, Load load, Sink sink, String lane) throws IOException {
        holtra.adopt(SETUP.formatted(sink.address(), lane.equals("archived"), lane.equals("sent")));
        String delivered = "select count(*) from outcome where lane = '" + lane + "'";
        double rate = 0;
        for (int round = 0; round < ROUNDS; round++) {
            long before = its.number(delivered);
            sink.reset(0);
            long began = System.nanoTime();
            load.full(0, WARMING);
            await(its, delivered, before + WARMING);
            rate = WARMING / ((System.nanoTime() - began) / 1e9);
        }
        return rate;
    }

    private static void await(Database its, String query, long count) {
        long deadline = System.nanoTime() + LONGEST_NANOS;
        while (its.number(query) < count) {
            if (System.nanoTime() > deadline) {
                throw new IllegalStateException(its.number(query) + " of " + count + ": " + query);
            }
            Running.pause(20);
        }
    }
}
