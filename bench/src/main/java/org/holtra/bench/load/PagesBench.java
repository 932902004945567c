package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What open pages of the console cost, over much data, and what they take from those who send. */
record PagesBench(Database database, double seconds, Notebook notebook) {

    private static final int DEVICES = 100_000;
    private static final int DEAD_LETTERS = 1_000_000;
    private static final int VIEWERS = 20;
    private static final int CONNECTIONS = 16;
    private static final double PACE = 1_000;
    private static final int SHOWN = 20;

    /** Every message is taken by a closed lane, and by one whose shape fails, so that it is dead at once. */
    private static final String FAILING = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
              other: {kind: http, to: {url: "http://127.0.0.1:9/"}}
            lanes:
              bench: {inlets: [bench], outlet: out}
              failing: {inlets: [bench], outlet: other, shape: {body: {n: "${data.missing}"}}}
            """;

    /** What every page asks for. */
    private static final Map<String, Double> FRAME = Map.of("/overview", 2.0, "/status", 2.0);

    /**
     * A page of the console: what it asks for, and every so many seconds.
     *
     * @param live whether it listens to what happens
     */
    private record Page(Map<String, Double> asked, boolean live) {}

    private static final List<Page> PAGES = List.of(
            new Page(Map.of("/inlets", 5.0), false),
            new Page(Map.of("/messages?limit=200", 5.0), true),
            new Page(Map.of("/lanes", 3.0, "/setup/drafts", 5.0), false),
            new Page(Map.of("/outlets", 3.0), false),
            new Page(Map.of("/devices", 3.0, "/devices/positions", 10.0), false),
            new Page(Map.of("/dead?limit=200", 5.0, "/incidents", 2.0), true),
            new Page(Map.of("/jobs", 1.0), false),
            new Page(Map.of("/alarms", 2.0, "/lookouts", 5.0), false),
            new Page(Map.of("/inlets", 5.0, "/fields", 3.0), true),
            new Page(Map.of("/storage", 30.0), false));

    private record Cost(double service, double database) {

        static Cost now(Running holtra, Database its) {
            return new Cost(Cpu.seconds(holtra.pid()), Cpu.seconds(its.server()));
        }

        String since(Cost before, double seconds) {
            return String.format(
                    Locale.ROOT,
                    "service %.1f %%, PostgreSQL %.1f %% of a core",
                    (service - before.service) / seconds * 100,
                    (database - before.database) / seconds * 100);
        }
    }

    void run() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(FAILING);
            Load load = new Load(
                    holtra.address() + "/in/bench", "bench-token", CONNECTIONS, number -> Body.of(number, DEVICES));
            for (int sent = 0; sent < DEAD_LETTERS; sent += DEVICES) {
                load.full(0, DEVICES);
            }
            while (its.number("select sum(letters) from dead_count") < DEAD_LETTERS) {
                Running.pause(500);
            }
            holtra.adopt(IntakeBench.CLOSED_LANE);
            int messages = (int) (PACE * seconds);
            load.paced(0, messages, PACE, new long[messages]);
            String what = String.format(Locale.ROOT, "%,d devices, %,d dead letters, ", DEVICES, DEAD_LETTERS);
            idle(holtra, its, what);
            viewed(holtra, its, what);
            Load.Result alone =
                    Turns.middle(() -> load.paced(0, messages, PACE, new long[messages]), it -> it.millis(.99));
            Load.Result beside;
            try (Viewers viewers = new Viewers(holtra)) {
                beside = Turns.middle(() -> load.paced(0, messages, PACE, new long[messages]), it -> it.millis(.99));
            }
            notebook.note("intake at 1,000 a second, no page open", latency(alone), "");
            notebook.note("  " + VIEWERS + " pages open", latency(beside), "");
            spooled(holtra, load, its);
        }
        its.drop();
    }

    private void idle(Running holtra, Database its, String what) {
        Cost before = Cost.now(holtra, its);
        Running.pause((long) (seconds * 1_000));
        notebook.note(what + "no page open", Cost.now(holtra, its).since(before, seconds), "");
    }

    private void viewed(Running holtra, Database its, String what) {
        try (Viewers viewers = new Viewers(holtra)) {
            Running.pause((long) (seconds * 1_000)); // caches of the database and compiled code
            viewers.forget();
            Cost before = Cost.now(holtra, its);
            double span = 4 * seconds;
            Running.pause((long) (span * 1_000));
            notebook.note(what + VIEWERS + " pages open", Cost.now(holtra, its).since(before, span), "");
            viewers.slowest()
                    .forEach(line -> notebook.note("  " + line.path, line.figure(), line.nanos.length + " calls"));
        }
    }

    /** What it takes to show one message of the last in a full spool, which is being drained. */
    private void spooled(Running holtra, Load load, Database its) throws IOException {
        String name = its.url().substring(its.url().lastIndexOf('/') + 1);
        database.run("alter database " + name + " allow_connections false");
        database.run("select pg_terminate_backend(pid) from pg_stat_activity where datname = '" + name + "'");
        int sent = 0;
        String shown = null;
        while (!isFull(load)) {
            sent += DEVICES;
            shown = sendOne(holtra);
        }
        database.run("alter database " + name + " allow_connections true");
        awaitDatabase(holtra);
        List<Long> nanos = new ArrayList<>();
        for (int i = 0; i < SHOWN; i++) {
            long began = System.nanoTime();
            holtra.get("/api/v1/messages/" + shown);
            nanos.add(System.nanoTime() - began);
        }
        nanos.sort(Comparator.naturalOrder());
        notebook.note(
                "one message of a full spool shown while it is drained",
                String.format(Locale.ROOT, "%.1f ms, at most %.1f", nanos.get(SHOWN / 2) / 1e6, nanos.getLast() / 1e6),
                String.format(Locale.ROOT, "%,d messages in it", sent));
    }

    private static void awaitDatabase(Running holtra) {
        while (true) {
            try {
                holtra.get("/api/v1/messages?limit=1");
                return;
            } catch (IllegalStateException e) {
                Running.pause(100); // it answers 503 as long as the database is away
            }
        }
    }

    /** Whether not all of so many messages went into the spool; who is refused loses the connection. */
    private static boolean isFull(Load load) {
        try {
            return load.full(0, DEVICES).refused() > 0;
        } catch (UncheckedIOException e) {
            return true;
        }
    }

    private static String sendOne(Running holtra) throws IOException {
        HttpRequest request = HttpRequest.newBuilder(URI.create(holtra.address() + "/in/bench"))
                .header("Authorization", "Bearer bench-token")
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofByteArray(Body.of(1, DEVICES)))
                .build();
        try (HttpClient client = HttpClient.newHttpClient()) {
            JsonNode answer = JsonMapper.shared()
                    .readTree(client.send(request, HttpResponse.BodyHandlers.ofByteArray())
                            .body());
            return answer.path("id").asString();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Those who have a page open each, until it is closed. */
    private static final class Viewers implements AutoCloseable {

        private record Line(String path, long[] nanos) {

            String figure() {
                return String.format(
                        Locale.ROOT,
                        "p50 %.1f ms, at most %.1f",
                        nanos[nanos.length / 2] / 1e6,
                        nanos[nanos.length - 1] / 1e6);
            }
        }

        private final Running holtra;
        private final HttpClient client =
                HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
        private final Map<String, ConcurrentLinkedQueue<Long>> took = new ConcurrentHashMap<>();
        private volatile boolean closed;

        Viewers(Running holtra) {
            this.holtra = holtra;
            for (int i = 0; i < VIEWERS; i++) {
                Page page = PAGES.get(i % PAGES.size());
                FRAME.forEach((path, every) -> asks(path, every));
                page.asked.forEach((path, every) -> asks(path, every));
                if (page.live) {
                    listens();
                }
            }
        }

        private void asks(String path, double every) {
            Thread.ofVirtual().start(() -> {
                while (!closed) {
                    long began = System.nanoTime();
                    holtra.get("/api/v1" + path);
                    took.computeIfAbsent(path, same -> new ConcurrentLinkedQueue<>())
                            .add(System.nanoTime() - began);
                    Running.pause((long) (every * 1_000));
                }
            });
        }

        private void listens() {
            HttpRequest request = HttpRequest.newBuilder(URI.create(holtra.address() + "/api/v1/live"))
                    .header("Authorization", "Bearer " + holtra.key())
                    .build();
            client.sendAsync(request, HttpResponse.BodyHandlers.ofInputStream())
                    .thenAccept(answer -> Thread.ofVirtual().start(() -> {
                        try (InputStream in = answer.body()) {
                            byte[] some = new byte[8_192];
                            while (!closed && in.read(some) >= 0) {
                                // What comes is not looked at.
                            }
                        } catch (IOException e) {
                            if (!closed) {
                                throw new IllegalStateException("the live stream ended", e);
                            }
                        }
                    }));
        }

        void forget() {
            took.clear();
        }

        List<Line> slowest() {
            return took.entrySet().stream()
                    .map(one -> new Line(
                            one.getKey(),
                            one.getValue().stream().mapToLong(it -> it).sorted().toArray()))
                    .sorted(Comparator.comparingLong(
                                    (Line line) -> Arrays.stream(line.nanos).sum())
                            .reversed())
                    .toList();
        }

        @Override
        public void close() {
            closed = true;
            client.shutdownNow();
        }
    }
}
