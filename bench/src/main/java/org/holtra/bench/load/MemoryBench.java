package org.holtra.bench.load;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;

/** What lanes with memory and lookouts take in with many keys alive, beside the same lane without memory. */
final class MemoryBench {

    private static final int KEYS = 100_000;
    private static final int MANY = 1_000_000;
    private static final int CONNECTIONS = 64;
    private static final String DOWNSAMPLE = "downsample";
    private static final String KEY = "key: \"string(int(data.n) % " + KEYS + ")\"";
    private static final String HEAD = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
            """;
    private static final String LANE = "lanes:\n  bench: {inlets: [bench], outlet: out%s}\n";

    /** Where what was measured is told. */
    interface Notes {
        void note(String what, String figure, String beside);
    }

    private final Database database;
    private final Notes notes;

    MemoryBench(Database database, Notes notes) {
        this.database = database;
        this.notes = notes;
    }

    void run() throws IOException {
        Map<String, String> setups = new LinkedHashMap<>();
        setups.put("a lane without memory, to a closed outlet", LANE.formatted(""));
        setups.put(DOWNSAMPLE, LANE.formatted(", memory: {" + KEY + ", downsample: {every: 1h, others: last}}"));
        setups.put("join", LANE.formatted(", memory: {" + KEY + ", join: {count: 1000, within: 2h}}"));
        setups.put(
                "a lookout",
                "lookouts:\n  bench: {inlets: [bench], value: data.wetBulb, above: {on: 10, off: 9}, " + KEY + "}\n");
        double plain = 0;
        for (Map.Entry<String, String> setup : setups.entrySet()) {
            double rate = rate(setup.getKey(), HEAD + setup.getValue());
            plain = plain == 0 ? rate : plain;
            notes.note(
                    String.format(Locale.ROOT, "%s, %,d keys alive", setup.getKey(), KEYS),
                    String.format(Locale.ROOT, "%,.0f a second", rate),
                    String.format(Locale.ROOT, "%.2f of the lane without memory", rate / plain));
        }
    }

    private double rate(String what, String setup) throws IOException {
        Database one = database.fresh();
        double rate;
        Path folder;
        try (Running holtra = Running.holtra(one, null)) {
            holtra.adopt(setup);
            Load load = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            through(one, load, 0);
            through(one, load, KEYS);
            rate = through(one, load, 2 * KEYS);
            if (what.equals(DOWNSAMPLE)) {
                many(what, one, holtra, load, rate);
            }
            folder = holtra.folder();
        }
        long states = one.number("select count(*) from memory");
        if (states > 0) {
            notes.note(
                    "  " + what + ": state of a key",
                    String.format(
                            Locale.ROOT,
                            "%d bytes, %d with its place in the table and indexes",
                            one.number("select avg(pg_column_size(state))::int8 from memory"),
                            one.number("select pg_total_relation_size('memory') / " + states)),
                    states + " keys");
            restart(what, one, folder);
        }
        one.drop();
        return rate;
    }

    /** The same beside so many more keys, of which nothing comes. */
    private void many(String what, Database one, Running holtra, Load load, double rate) throws IOException {
        one.run("""
                insert into memory (lane, key, zone, operation, state, device, simulated, due, heard)
                select m.lane, 'unheard-' || n, m.zone, m.operation, m.state, m.device, m.simulated, null, m.heard
                from (select * from memory limit 1) m, generate_series(1, %d) n
                """.formatted(MANY - KEYS));
        one.run("vacuum analyze memory");
        double beside = through(one, load, 3 * KEYS);
        notes.note(
                String.format(Locale.ROOT, "  %s, %,d keys alive", what, MANY),
                String.format(Locale.ROOT, "%,.0f a second", beside),
                String.format(
                        Locale.ROOT,
                        "%.2f of that with %,d; live heap %.0f MB",
                        beside / rate,
                        KEYS,
                        holtra.liveHeap()));
    }

    /** From the start of the process until it does its work with all those keys there. */
    private void restart(String what, Database one, Path folder) throws IOException {
        long began = System.nanoTime();
        try (Running holtra = Running.holtra(one, folder)) {
            double started = holtra.startSeconds();
            new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS).full(4 * KEYS, 1_000);
            await(one);
            notes.note(
                    "  " + what + ": from the start until 1,000 messages have met their keys",
                    String.format(Locale.ROOT, "%.1f s", (System.nanoTime() - began) / 1e9),
                    String.format(Locale.ROOT, "of which %.1f s until it answers", started));
        }
    }

    /** From the first message sent until the last has met its key. */
    private static double through(Database one, Load load, int first) {
        long began = System.nanoTime();
        load.full(first, KEYS);
        await(one);
        return KEYS / ((System.nanoTime() - began) / 1e9);
    }

    private static void await(Database one) {
        while (one.number("select count(*) from (select 1 from remembered where not seen limit 1) r") > 0) {
            Running.pause(20);
        }
    }
}
