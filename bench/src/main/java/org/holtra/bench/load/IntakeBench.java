package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;

/** What Holtra takes in and keeps, in turns with a bare server that does the same group commit of the same rows. */
record IntakeBench(Database database, double seconds, Notebook notebook) {

    private static final int SLOW = 2_000;

    /** Those that neither duplicates nor deferred messages are looked up by. */
    private static final List<String> INDEXES_OF_PAGES = List.of(
            "message_of_device",
            "message_of_inlet",
            "message_of_lanes",
            "message_not_read",
            "message_unrouted",
            "message_of_type",
            "message_simulated");

    /** Takes everything and sends nothing. */
    static final String CLOSED_LANE = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
            lanes:
              bench: {inlets: [bench], outlet: out}
            """;

    void run() throws IOException {
        try (Running bare = Running.bare("answer")) {
            Sender sender = new Sender(bare.address() + "/in");
            Load.Result answer = sender.full(count(sender.warm()));
            notebook.note("bare server, answers 202, keeps nothing", rate(answer.rate()), latency(answer));
        }
        Database one = database.fresh();
        try (Running holtra = Running.holtra(one, null)) {
            holtra.get("/api/v1/status"); // the tables are there now
        }
        Database two = database.fresh();
        try (Running holtra = Running.holtra(two, null);
                Running bare = Running.bare("commit", one.url(), one.password())) {
            holtra.adopt(CLOSED_LANE);
            beside(holtra, new Sender(holtra.address() + "/in/bench"), new Sender(bare.address() + "/in"), two);
            notebook.note("rows of the same content inserted by JDBC, 200 a transaction", rate(jdbc(one)), "");
        }
        one.drop();
        two.drop();
    }

    /** What a healthy sender gets while senders without a credential hold connections and send next to nothing. */
    void besideSlowSenders() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(CLOSED_LANE);
            Sender sender = new Sender(holtra.address() + "/in/bench");
            int messages = count(sender.warm());
            List<Load.Result> alone = new ArrayList<>();
            List<Load.Result> among = new ArrayList<>();
            for (int turn = 0; turn < 5; turn++) {
                alone.add(sender.full(messages));
                try (SlowSenders slow = new SlowSenders(holtra.address(), SLOW)) {
                    among.add(sender.full(messages));
                }
            }
            Load.Result one = middle(alone);
            Load.Result other = middle(among);
            notebook.note("intake alone", rate(one.rate()), latency(one));
            notebook.note("intake among " + SLOW + " slow connections", rate(other.rate()), latency(other));
            notebook.note("  beside intake alone", ratio(other.rate() / one.rate()), "at least 0.9 is wanted");
            notebook.note("  refused", Integer.toString(other.refused()), "");
        }
        its.drop();
    }

    /** What is kept at full rate with and without the indexes by which pages find messages, in turns. */
    void withoutIndexesOfPages() throws IOException {
        Database one = database.fresh();
        Database two = database.fresh();
        try (Running with = Running.holtra(one, null);
                Running without = Running.holtra(two, null)) {
            for (String index : INDEXES_OF_PAGES) {
                two.run("drop index " + index);
            }
            with.adopt(CLOSED_LANE);
            without.adopt(CLOSED_LANE);
            Sender mine = new Sender(with.address() + "/in/bench");
            Sender other = new Sender(without.address() + "/in/bench");
            int messages = count(Math.min(mine.warm(), other.warm()));
            double before = Cpu.seconds(one.server());
            mine.full(messages);
            double between = Cpu.seconds(one.server());
            other.full(messages);
            double after = Cpu.seconds(one.server());
            Turns<Load.Result> turns =
                    Turns.of(() -> mine.full(messages), () -> other.full(messages), Load.Result::rate);
            notebook.note("intake", rate(turns.mine().rate()), latency(turns.mine()));
            notebook.note(
                    "  without " + INDEXES_OF_PAGES.size() + " indexes that only pages use",
                    rate(turns.other().rate()),
                    latency(turns.other()));
            notebook.note("  with beside without", ratio(turns.ratio()), "");
            notebook.note(
                    "  a message costs PostgreSQL",
                    String.format(
                            Locale.ROOT,
                            "%.0f µs with, %.0f without",
                            (between - before) / messages * 1e6,
                            (after - between) / messages * 1e6),
                    "");
        }
        one.drop();
        two.drop();
    }

    private static Load.Result middle(List<Load.Result> results) {
        return results.stream()
                .sorted(Comparator.comparingDouble(Load.Result::rate))
                .toList()
                .get(results.size() / 2);
    }

    private void beside(Running holtra, Sender mine, Sender bare, Database its) throws IOException {
        int others = count(bare.warm());
        int messages = count(mine.warm());
        double service = Cpu.seconds(holtra.pid());
        double server = Cpu.seconds(its.server());
        Load.Result some = mine.full(messages);
        String cost =
                Cpu.cost(Cpu.seconds(holtra.pid()) - service, Cpu.seconds(its.server()) - server, some.messages());
        Turns<Load.Result> full = Turns.of(() -> mine.full(messages), () -> bare.full(others), Load.Result::rate);
        double half = full.other().rate() / 2;
        Turns<Load.Result> paced = Turns.of(
                () -> mine.paced(count(half), half), () -> bare.paced(count(half), half), it -> it.millis(.99));
        notebook.note(
                "bare server, group commit of the same rows", rate(full.other().rate()), latency(full.other()));
        notebook.note(
                "Holtra, durable intake over HTTP, 64 connections, " + Body.BYTES + " bytes",
                rate(full.mine().rate()),
                latency(full.mine()));
        notebook.note("  beside the bare group commit", ratio(full.ratio()), "at least 0.7 is wanted");
        notebook.note("  a message then costs, of the processors", cost, "");
        notebook.note(
                "  at half the bare server's rate (" + rate(half) + ")",
                latency(paced.mine()),
                "bare: " + latency(paced.other()));
        notebook.note("  p99 beside the bare one's there", ratio(paced.ratio()), "at most 2 is wanted");
        notebook.note(
                "  refused",
                Integer.toString(full.mine().refused() + paced.mine().refused()),
                "");
        notebook.note("  memory at full rate (resident)", Notebook.megabytes(holtra.resident()), "");
    }

    private int count(double rate) {
        return (int) Math.max(1_000, rate * seconds);
    }

    private static double jdbc(Database one) {
        try (BareServer.Rows rows = new BareServer.Rows(one.url(), one.password())) {
            MessageIds ids = new MessageIds(InstantSource.system(), new SecureRandom());
            long began = 0;
            int batches = 600;
            for (int batch = -100; batch < batches; batch++) {
                if (batch == 0) {
                    began = System.nanoTime();
                }
                List<MessageId> some = new ArrayList<>();
                List<byte[]> bodies = new ArrayList<>();
                for (int i = 0; i < 200; i++) {
                    some.add(ids.next());
                    bodies.add(Body.of(i, Load.DEVICES));
                }
                rows.insert(some, bodies);
            }
            return batches * 200 / ((System.nanoTime() - began) / 1e9);
        }
    }
}
