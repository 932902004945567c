package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Messages that come many in one arrival, in turns with messages that come by themselves. */
record PartsBench(Database database, double seconds, Notebook notebook) {

    private static final int PARTS = 20;
    private static final int CONNECTIONS = 16;
    private static final int WARMING = 4_000;

    private static final String SETUP = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
              many: {kind: http, at: {path: many, credential: bench}, device: data.id, parts: data.readings}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
            lanes:
              bench: {inlets: [bench, many], outlet: out}
            """;

    void run() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(SETUP);
            Load single = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            Load many = new Load(holtra.address() + "/in/many", "bench-token", CONNECTIONS, PartsBench::arrival);
            int messages = (int) Math.max(WARMING, warm(single, 1) * seconds);
            int arrivals = (int) Math.max(WARMING / PARTS, warm(many, PARTS) / PARTS * seconds);
            Turns<Load.Result> turns =
                    Turns.of(() -> many.full(0, arrivals), () -> single.full(0, messages), Load.Result::rate);
            notebook.note(
                    "intake, each message by itself, " + CONNECTIONS + " connections",
                    rate(turns.other().rate()),
                    latency(turns.other()));
            notebook.note(
                    "intake, " + PARTS + " parts an arrival: parts",
                    rate(turns.mine().rate() * PARTS),
                    latency(turns.mine()) + " an arrival");
            notebook.note("  parts beside single messages", ratio(turns.ratio() * PARTS), "");
            notebook.note(
                    "  refused",
                    Integer.toString(turns.mine().refused() + turns.other().refused()),
                    "");
        }
        its.drop();
    }

    /** Until the code is compiled; gives the last rate, in messages. */
    private static double warm(Load load, int parts) {
        double rate = 0;
        for (int round = 0; round < 6; round++) {
            rate = load.full(0, WARMING / parts).rate() * parts;
        }
        return rate;
    }

    private static byte[] arrival(int number) {
        return IntStream.range(0, PARTS)
                .mapToObj(part -> new String(Body.of(number * PARTS + part, Load.DEVICES), StandardCharsets.US_ASCII))
                .collect(Collectors.joining(",", "{\"gateway\":\"gw-hilltop-02\",\"readings\":[", "]}"))
                .getBytes(StandardCharsets.US_ASCII);
    }
}
