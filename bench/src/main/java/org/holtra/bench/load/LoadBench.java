package org.holtra.bench.load;

import java.io.IOException;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.io.entity.EntityUtils;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;

/** What Holtra takes in and sends on under load, beside bare servers that do the same with less; all in one run. */
public final class LoadBench {

    private static final int CONNECTIONS = 64;
    private static final String CLOSED_LANE = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
            lanes:
              bench: {inlets: [bench], outlet: out}
            """;

    private final Database database;
    private final double seconds;
    private final int backlog;
    private final Report report = new Report();
    private final Map<String, Double> known = new LinkedHashMap<>();

    private LoadBench(Database database, double seconds, int backlog) {
        this.database = database;
        this.seconds = seconds;
        this.backlog = backlog;
    }

    /** @param arguments the database's address and password, seconds a measurement, size of the backlog, parts to run */
    public static void main(String[] arguments) throws IOException {
        LoadBench bench = new LoadBench(
                new Database(arguments[0], arguments[1]),
                Double.parseDouble(arguments[2]),
                Integer.parseInt(arguments[3]));
        Set<String> parts = Set.of(arguments[4].split(","));
        Map<String, Part> all = new LinkedHashMap<>();
        all.put("start", bench::start);
        all.put("intake", bench::intake);
        all.put("through", bench::through);
        all.put("dead", bench::deadLanes);
        all.put("backlog", bench::backlog);
        all.put("recovery", bench::recovery);
        all.put("memory", new MemoryBench(bench.database, bench::note)::run);
        for (Map.Entry<String, Part> part : all.entrySet()) {
            if (parts.contains("all") || parts.contains(part.getKey())) {
                part.getValue().run();
            }
        }
        bench.report.write(arguments.length > 5 ? Path.of(arguments[5]) : null);
        System.exit(0);
    }

    private interface Part {
        void run() throws IOException;
    }

    private void note(String what, String figure, String beside) {
        report.add(what, figure, beside);
        System.out.printf("%-72s %-44s %s%n", what, figure, beside);
    }

    private static String rate(double rate) {
        return String.format(Locale.ROOT, "%,.0f a second", rate);
    }

    private static String latency(Load.Result result) {
        return String.format(
                Locale.ROOT,
                "p50 %.1f ms, p99 %.1f ms, p99.9 %.1f ms",
                result.millis(.5),
                result.millis(.99),
                result.millis(.999));
    }

    private static String ratio(double mine, double other) {
        return String.format(Locale.ROOT, "%.2f", mine / other);
    }

    private int count(double rate) {
        return (int) Math.max(1_000, rate * seconds);
    }

    // ------------------------------------------------------------------ starting

    private void start() throws IOException {
        double empty = Double.MAX_VALUE;
        double holtra = Double.MAX_VALUE;
        double memory = 0;
        double bare = 0;
        for (int i = 0; i < 3; i++) {
            Database one = database.fresh();
            try (Running running = Running.empty(one)) {
                empty = Math.min(empty, running.startSeconds());
                bare = running.resident();
            }
            try (Running running = Running.holtra(one, null)) {
                if (i > 0) {
                    memory = running.resident();
                }
            }
            try (Running running = Running.holtra(one, null)) {
                holtra = Math.min(holtra, running.startSeconds());
                memory = running.resident();
            }
            one.drop();
        }
        note(
                "start, best of 3, plain class path",
                String.format(Locale.ROOT, "%.1f s", holtra),
                String.format(
                        Locale.ROOT,
                        "%s of an empty service with the same starters (%.1f s)",
                        ratio(holtra, empty),
                        empty));
        note(
                "memory after the start (resident)",
                String.format(Locale.ROOT, "%.0f MB", memory),
                String.format(Locale.ROOT, "the empty service %.0f MB", bare));
    }

    // ------------------------------------------------------------------ intake

    private Load.Result measure(Load load, AtomicInteger next) {
        int messages = count(warm(load, next));
        return load.full(next.getAndAdd(messages), messages);
    }

    private static double warm(Load load, AtomicInteger next) {
        return Warming.up(() -> load.full(next.getAndAdd(20_000), 20_000).rate());
    }

    private Load.Result paced(Load load, AtomicInteger next, double rate) {
        int messages = count(rate);
        return load.paced(next.getAndAdd(messages), messages, rate, new long[messages]);
    }

    private void intake() throws IOException {
        Load.Result answer;
        try (Running bare = Running.bare("answer")) {
            answer = measure(new Load(bare.address() + "/in", "bench-token", CONNECTIONS), new AtomicInteger());
        }
        Database one = database.fresh();
        Load.Result commit;
        Load.Result commitHalf;
        double jdbc;
        try (Running holtra = Running.holtra(one, null);
                Running bare = Running.bare("commit", one.url(), one.password())) {
            holtra.get("/api/status");
            Load load = new Load(bare.address() + "/in", "bench-token", CONNECTIONS);
            AtomicInteger next = new AtomicInteger();
            commit = measure(load, next);
            commitHalf = paced(load, next, commit.rate() / 2);
            jdbc = jdbc(one);
        }
        one.drop();
        Database two = database.fresh();
        Load.Result mine;
        Load.Result mineHalf;
        double resident;
        try (Running holtra = Running.holtra(two, null)) {
            holtra.adopt(CLOSED_LANE);
            Load load = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            AtomicInteger next = new AtomicInteger();
            mine = measure(load, next);
            mineHalf = paced(load, next, commit.rate() / 2);
            resident = holtra.resident();
        }
        two.drop();
        note("bare server, answers 202, keeps nothing", rate(answer.rate()), latency(answer));
        note("rows of the same content inserted by JDBC, 200 a transaction", rate(jdbc), "");
        note("bare server, group commit of the same rows", rate(commit.rate()), latency(commit));
        note(
                "Holtra, durable intake over HTTP, " + CONNECTIONS + " connections, " + Body.BYTES + " bytes",
                rate(mine.rate()),
                latency(mine));
        note("  beside the bare group commit", ratio(mine.rate(), commit.rate()), "at least 0.7 is wanted");
        note(
                "  at half the bare server's rate (" + rate(commit.rate() / 2) + ")",
                latency(mineHalf),
                "bare: " + latency(commitHalf));
        note(
                "  p99 beside the bare one's there",
                ratio(mineHalf.millis(.99), commitHalf.millis(.99)),
                "at most 2 is wanted");
        note("  refused", Integer.toString(mine.refused() + mineHalf.refused()), "");
        note("  memory at full rate (resident)", String.format(Locale.ROOT, "%.0f MB", resident), "");
    }

    private double jdbc(Database one) {
        BareServer.Rows rows = new BareServer.Rows(one.url(), one.password());
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

    // ------------------------------------------------------------------ end to end

    private static String lanes(String url, int lanes) {
        StringBuilder yaml = new StringBuilder("""
                inlets:
                  bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
                outlets:
                """);
        for (int i = 0; i < lanes; i++) {
            yaml.append("  out-%d: {kind: http, to: {url: \"%s/o%d\", concurrency: %d}}%n"
                    .formatted(i, url, i, lanes == 1 ? 32 : 8));
        }
        yaml.append("lanes:\n");
        for (int i = 0; i < lanes; i++) {
            yaml.append("  lane-%d: {inlets: [bench], outlet: out-%d}%n".formatted(i, i));
        }
        return yaml.toString();
    }

    private static double warmThrough(Load load, Sink sink, AtomicInteger next, int lanes) {
        return Warming.up(() -> through(load, sink, next.getAndAdd(20_000), 20_000, lanes));
    }

    /** From the first message sent until the last one has arrived, in deliveries a second. */
    private static double through(Load load, Sink sink, int first, int messages, int lanes) {
        sink.reset(0);
        long began = System.nanoTime();
        load.full(first, messages);
        long deadline = System.nanoTime() + 600_000_000_000L;
        while (sink.count() < (long) messages * lanes && System.nanoTime() < deadline) {
            Running.pause(5);
        }
        if (sink.count() < (long) messages * lanes) {
            throw new IllegalStateException(sink.count() + " of " + messages * lanes + " arrived");
        }
        return messages * lanes / ((sink.last() - began) / 1e9);
    }

    private void through() throws IOException {
        try (Sink sink = new Sink()) {
            double loop = clientLoop(sink);
            double forward;
            try (Running bare = Running.bare("forward", sink.address())) {
                forward = measure(new Load(bare.address() + "/in", "bench-token", CONNECTIONS), new AtomicInteger())
                        .rate();
            }
            double one = through(sink, 1, true);
            double ten = through(sink, 10, false);
            note("bare loop of the same HTTP client to the same receiver, 32 at once", rate(loop), "");
            note("unsafe forwarder: posts on and answers, keeps nothing", rate(forward), "");
            note(
                    "Holtra, HTTP in to HTTP out, one lane",
                    rate(one),
                    ratio(one, forward) + " of the forwarder; at least 0.5 is wanted");
            note(
                    "Holtra, ten lanes of one inlet, deliveries",
                    rate(ten),
                    ratio(ten, one) + " of one lane; at least 1 is wanted");
        }
    }

    private double through(Sink sink, int lanes, boolean latencies) throws IOException {
        Database one = database.fresh();
        double best;
        try (Running holtra = Running.holtra(one, null)) {
            holtra.adopt(lanes(sink.address(), lanes));
            Load load = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            AtomicInteger next = new AtomicInteger();
            int messages = count(warmThrough(load, sink, next, lanes) / lanes);
            double service = Cpu.seconds(holtra.pid());
            double server = Cpu.seconds(one.server());
            best = through(load, sink, next.getAndAdd(messages), messages, lanes);
            if (latencies) {
                note(
                        "a message then costs, of the processors",
                        String.format(
                                Locale.ROOT,
                                "service %.0f µs, PostgreSQL %.0f µs",
                                (Cpu.seconds(holtra.pid()) - service) / messages * 1e6,
                                (Cpu.seconds(one.server()) - server) / messages * 1e6),
                        "");
            }
            int first = next.get();
            if (latencies) {
                known.put("through", best);
                for (double share : new double[] {.1, .5, .9}) {
                    Load.Result result = endToEnd(load, sink, first, best * share);
                    first += result.messages();
                    note(
                            String.format(Locale.ROOT, "end to end at %.0f %% of the highest rate", share * 100),
                            latency(result),
                            rate(best * share));
                }
            }
        }
        one.drop();
        return best;
    }

    /** Latencies from when a message was to be sent until it came to its destination. */
    private Load.Result endToEnd(Load load, Sink sink, int first, double rate) {
        int messages = count(rate);
        sink.reset(first + messages);
        long[] due = new long[messages];
        Load.Result sent = load.paced(first, messages, rate, due);
        long deadline = System.nanoTime() + 60_000_000_000L;
        while (sink.count() < messages && System.nanoTime() < deadline) {
            Running.pause(5);
        }
        long[] nanos = new long[messages];
        for (int i = 0; i < messages; i++) {
            nanos[i] = sink.came(first + i) - due[i];
        }
        java.util.Arrays.sort(nanos);
        return new Load.Result(messages, sent.seconds(), nanos, sent.refused());
    }

    private double clientLoop(Sink sink) throws IOException {
        try (CloseableHttpClient client = HttpClients.custom()
                .setConnectionManager(PoolingHttpClientConnectionManagerBuilder.create()
                        .setMaxConnTotal(32)
                        .setMaxConnPerRoute(32)
                        .build())
                .build()) {
            double rate = 0;
            for (int round = 0; round < 2; round++) {
                int messages = round == 0 ? 50_000 : count(rate);
                AtomicInteger next = new AtomicInteger();
                List<Thread> threads = new ArrayList<>();
                long began = System.nanoTime();
                for (int i = 0; i < 32; i++) {
                    threads.add(Thread.ofVirtual().start(() -> {
                        for (int n = next.getAndIncrement(); n < messages; n = next.getAndIncrement()) {
                            HttpPost post = new HttpPost(sink.address());
                            post.setEntity(new ByteArrayEntity(Body.of(n, Load.DEVICES), ContentType.APPLICATION_JSON));
                            try {
                                client.execute(post, answer -> {
                                    EntityUtils.consume(answer.getEntity());
                                    return null;
                                });
                            } catch (IOException e) {
                                throw new IllegalStateException(e);
                            }
                        }
                    }));
                }
                threads.forEach(Load::join);
                rate = messages / ((System.nanoTime() - began) / 1e9);
            }
            return rate;
        }
    }

    // ------------------------------------------------------------------ isolation

    private record Healthy(double rate, Load.Result half) {

        double pace() {
            return half.messages() / half.seconds();
        }
    }

    private Healthy healthy(Running holtra, Sink sink, int first, double pace) {
        Load load = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
        AtomicInteger next = new AtomicInteger(first);
        int messages = count(warmThrough(load, sink, next, 1));
        double rate = through(load, sink, next.getAndAdd(messages), messages, 1);
        return new Healthy(rate, endToEnd(load, sink, next.get(), pace == 0 ? rate / 2 : pace));
    }

    private static String dead(String url, int lanes) {
        StringBuilder yaml = new StringBuilder(lanes(url, 1).replace("lanes:\n", ""));
        String lane = yaml.substring(yaml.indexOf("  lane-0"));
        yaml.setLength(yaml.length() - lane.length());
        for (int i = 0; i < lanes; i++) {
            yaml.append("  dead-%d: {kind: http, to: {url: \"http://127.0.0.1:9/\", timeout: 2s}}%n".formatted(i));
        }
        yaml.insert(
                yaml.indexOf("outlets:"),
                "  other: {kind: http, at: {path: other, credential: bench}, device: data.id}\n");
        yaml.append("lanes:\n").append(lane);
        for (int i = 0; i < lanes; i++) {
            yaml.append("  dead-%d: {inlets: [other], outlet: dead-%d}%n".formatted(i, i));
        }
        return yaml.toString();
    }

    private void deadLanes() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            Healthy before;
            Healthy beside;
            Healthy after;
            double heap;
            try (Running holtra = Running.holtra(one, null)) {
                holtra.adopt(lanes(sink.address(), 1));
                before = healthy(holtra, sink, 0, 0);
                holtra.adopt(dead(sink.address(), 1_000));
                new Load(holtra.address() + "/in/other", "bench-token", 2).full(0, 100);
                beside = healthy(holtra, sink, 10_000_000, before.pace());
                heap = holtra.liveHeap();
                holtra.adopt(lanes(sink.address(), 1));
                after = healthy(holtra, sink, 20_000_000, before.pace());
            }
            one.drop();
            compare("with 1,000 lanes to dead outlets, 100 messages waiting in each", before, beside, after, heap);
        }
    }

    /** A service gets faster as its code is compiled, so alone is measured before and after. */
    private void compare(String what, Healthy before, Healthy beside, Healthy after, double heap) {
        double alone = (before.rate + after.rate) / 2;
        double p99 = (before.half.millis(.99) + after.half.millis(.99)) / 2;
        note("a healthy lane, alone, before", rate(before.rate), latency(before.half) + " at half");
        note(what, rate(beside.rate), latency(beside.half) + " at the same pace");
        if (after != before) {
            note("a healthy lane, alone, after", rate(after.rate), latency(after.half) + " at the same pace");
        }
        note("  beside alone: rate", ratio(beside.rate, alone), "at least 0.9 is wanted");
        note("  beside alone: p99", ratio(beside.half.millis(.99), p99), "at most 1.2 is wanted");
        note("  live heap", String.format(Locale.ROOT, "%.0f MB", heap), "under 512 MB is wanted");
    }

    /** So many messages, each owed by the lane of this name, written behind the service's back. */
    private void fill(Database one, String lane, String outlet, int messages) {
        one.run("""
                with made as (
                  select (lpad(to_hex((extract(epoch from now()) * 1000)::bigint), 12, '0') || '7' ||
                          lpad(to_hex(n / 65536), 3, '0') || '8' || lpad(to_hex(n %% 65536), 4, '0') || lpad(to_hex(n), 11, '0'))::uuid
                           as id, n
                  from generate_series(1, %1$d) n),
                kept as (
                  insert into message (id, received, inlet, state, device, event_time, sort, simulated, setup_revision, lanes,
                                       arrival, body)
                  select id, date_trunc('milliseconds', now()), 'bench', 'read', 'station-' || lpad((n %% 1000)::text, 5, '0'),
                         now(), 'reading', false, 1, array['%2$s'],
                         '{"remote":"127.0.0.1","path":"/in/bench","contentType":"application/json","headers":{}}'::bytea,
                         convert_to(rpad('{"id":"station-' || lpad((n %% 1000)::text, 5, '0') || '","n":' || (100000000 + n)
                            || ',"note":"', 298, 'x') || '"}', 'UTF8')
                  from made returning id, received, device)
                insert into owed (id, message, received, lane, outlet, device, attempts, due)
                select gen_random_uuid(), id, received, '%2$s', '%3$s', device, 0, received from kept
                """.formatted(messages, lane, outlet));
        one.run("vacuum analyze message");
        one.run("vacuum analyze owed");
        // What writing them left to be done is not to be measured.
        one.run("checkpoint");
    }

    private void backlog() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            Healthy before;
            Healthy beside;
            double heap;
            try (Running holtra = Running.holtra(one, null)) {
                holtra.adopt(dead(sink.address(), 1));
                // Twice, since a service gets faster as its code is compiled, and what waits is not taken away again.
                healthy(holtra, sink, 40_000_000, 0);
                before = healthy(holtra, sink, 0, 0);
                fill(one, "dead-0", "dead-0", backlog);
                new Load(holtra.address() + "/in/other", "bench-token", 2).full(0, 10);
                beside = healthy(holtra, sink, 20_000_000, before.pace());
                heap = holtra.liveHeap();
            }
            one.drop();
            compare(
                    String.format(Locale.ROOT, "with %,d deliveries waiting behind a dead outlet", backlog),
                    before,
                    beside,
                    before,
                    heap);
        }
    }

    private void recovery() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            Path folder;
            try (Running holtra = Running.holtra(one, null)) {
                holtra.adopt(lanes(sink.address(), 1));
                folder = holtra.folder();
            }
            fill(one, "lane-0", "out-0", backlog);
            sink.reset(0);
            long began = System.nanoTime();
            double heap;
            try (Running holtra = Running.holtra(one, folder)) {
                while (sink.count() < backlog) {
                    Running.pause(20);
                }
                heap = holtra.liveHeap();
            }
            double seconds = (sink.last() - began) / 1e9;
            one.drop();
            double through = known.getOrDefault("through", 0.0);
            note(
                    String.format(
                            Locale.ROOT, "recovery: %,d waiting deliveries from the start of the process", backlog),
                    String.format(Locale.ROOT, "%.0f s, %s", seconds, rate(backlog / seconds)),
                    through == 0
                            ? ""
                            : ratio(backlog / seconds, through) + " of the end-to-end rate; at least 0.5 is wanted");
            note("  live heap", String.format(Locale.ROOT, "%.0f MB", heap), "");
        }
    }
}
