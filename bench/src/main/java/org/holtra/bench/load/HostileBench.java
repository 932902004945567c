package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import tools.jackson.databind.JsonNode;

/**
 * Honest senders beside hostile ones: what they lose by them, and what the service keeps of it. The hostile ones do what the
 * seed says: bodies that are dear to parse, at an inlet that takes them; a script that changes what all scripts share; guesses
 * of passwords; setups and expressions made to be dear; calls that are refused; connections that send next to nothing.
 *
 * @param seconds how long the hostile ones go on
 */
record HostileBench(Database database, double seconds, long seed, Notebook notebook) {

    private static final double RATE = 100;
    private static final int HOSTILE = 6;
    /** On the average between two calls of one of them. */
    private static final int PAUSE_MILLIS = 500;

    private static final String JSON = "application/json";

    private static final int SLOW = 300;
    private static final int WARMING = 20;
    private static final long READ_MILLIS = 60_000;

    private static final String SETUP = """
            models:
              evil:
                codec:
                  script: |
                    Array.prototype.toJSON = function () { return undefined; };
                    Object.prototype.toJSON = function () { throw 1; };
                    function decodeUplink(input) { if (input.bytes[0] === 7) { for (;;) {} } return { data: { v: 1 } }; }
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
              hostile:
                kind: http
                at: {path: hostile, credential: bench, atOnce: 8}
                device: data.id
                payload: {bytes: data.p, encoding: hex}
                unknown: {model: "'evil'"}
            outlets:
              out: {kind: http, state: closed, to: {url: "http://127.0.0.1:9/"}}
            lanes:
              bench: {inlets: [bench], outlet: out}
              odd:
                inlets: [hostile]
                outlet: out
                shape: {path: "/x/${device.key}", body: "${data.id.replace('a', data.id)}"}
            """;

    void run() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(SETUP);
            Sender honest = new Sender(holtra.address() + "/in/bench");
            warm(holtra, honest);
            Load.Result before = alone(honest);
            State begun = State.of(holtra);
            AtomicLong done = new AtomicLong();
            Load.Result among;
            try (SlowSenders slow = new SlowSenders(holtra.address(), SLOW)) {
                among = beside(holtra, honest, List.of(Act.values()), done);
            }
            Running.pause(20_000);
            State ended = State.of(holtra);
            JsonNode balance = holtra.get("/api/v1/balance");
            notebook.note("honest senders alone, " + (int) RATE + " a second", latency(before), "");
            notebook.note(
                    "  beside " + done + " hostile calls in " + (int) seconds + " s, seed " + seed, latency(among), "");
            notebook.note(
                    "  p99 beside that alone",
                    ratio(among.millis(.99) / before.millis(.99)),
                    "at most 2 is wanted; refused: " + among.refused());
            notebook.note("  threads, files and heap before", begun.toString(), "");
            notebook.note("  and 20 s after", ended.toString(), "");
            notebook.note(
                    "  missing in the balance",
                    balance.path("missing").asString(),
                    "unreadable: " + balance.at("/intake/unreadable").asString());
        }
        its.drop();
    }

    /** The same for each type of hostile call by itself, for as many seconds each. */
    void each() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(SETUP);
            Sender honest = new Sender(holtra.address() + "/in/bench");
            warm(holtra, honest);
            notebook.note("honest senders alone, " + (int) RATE + " a second", latency(alone(honest)), "");
            try (SlowSenders slow = new SlowSenders(holtra.address(), SLOW)) {
                notebook.note("  beside " + SLOW + " slow connections", latency(alone(honest)), "");
            }
            for (Act act : Act.values()) {
                AtomicLong done = new AtomicLong();
                Load.Result among = beside(holtra, honest, List.of(act), done);
                notebook.note("  beside " + act, latency(among), done + " calls");
            }
        }
        its.drop();
    }

    /** A service that meets a type of call for the first time loads and compiles for it; that is not what is measured. */
    private void warm(Running holtra, Sender honest) throws IOException {
        honest.warm();
        Random random = new Random(seed);
        for (int i = 0; i < WARMING; i++) {
            for (Act act : Act.values()) {
                act.happen(holtra, random);
            }
        }
    }

    private Load.Result alone(Sender honest) throws IOException {
        return honest.paced((int) (RATE * Math.max(20, seconds / 10)), RATE);
    }

    private Load.Result beside(Running holtra, Sender honest, List<Act> acts, AtomicLong done) throws IOException {
        AtomicBoolean over = new AtomicBoolean();
        List<Thread> all = new ArrayList<>();
        for (int i = 0; i < HOSTILE; i++) {
            Random random = new Random(seed + i);
            all.add(Thread.ofPlatform().start(() -> {
                while (!over.get()) {
                    acts.get(random.nextInt(acts.size())).happen(holtra, random);
                    done.incrementAndGet();
                    Running.pause(random.nextInt(2 * PAUSE_MILLIS));
                }
            }));
        }
        Load.Result among = honest.paced((int) (RATE * seconds), RATE);
        over.set(true);
        all.forEach(HostileBench::join);
        return among;
    }

    /** What of a process must not grow. */
    private record State(long threads, long files, double heap) {

        static State of(Running running) throws IOException {
            Path process = Path.of("/proc/" + running.pid());
            long threads = Files.readAllLines(process.resolve("status")).stream()
                    .filter(line -> line.startsWith("Threads:"))
                    .mapToLong(line -> Long.parseLong(line.replaceAll("\\D", "")))
                    .sum();
            try (var files = Files.list(process.resolve("fd"))) {
                return new State(threads, files.count(), running.liveHeap());
            }
        }

        @Override
        public String toString() {
            return threads + " threads, " + files + " files, " + Math.round(heap) + " MB live";
        }
    }

    private interface Call {
        void to(Running holtra, Random random);
    }

    /** What the hostile ones do, each for itself to be looked at by {@link #each}. */
    private enum Act {
        FORM((holtra, random) -> inlet(holtra, "application/x-www-form-urlencoded", "a=1&".repeat(40_000))),
        CBOR_TAGS((holtra, random) -> inlet(holtra, "application/cbor", tags(100_000))),
        JSON_DEPTH((holtra, random) -> inlet(holtra, JSON, "[".repeat(50_000))),
        JSON_DIGITS((holtra, random) -> inlet(holtra, JSON, "{\"id\":" + "9".repeat(100_000) + "}")),
        SCRIPT((holtra, random) -> inlet(holtra, JSON, script(random))),
        DEVICE_KEY((holtra, random) -> inlet(holtra, JSON, "{\"id\":\"../" + "a".repeat(190) + "\",\"p\":\"00\"}")),
        PASSWORD((holtra, random) -> send(
                holtra,
                "POST /api/v1/session",
                "Content-Type: application/json\r\n",
                "{\"name\":\"admin\",\"password\":\"guess\"}".getBytes())),
        WRONG_SECRET((holtra, random) -> send(
                holtra,
                "POST /in/bench",
                "Authorization: Bearer guess\r\n",
                "x".repeat(500_000).getBytes())),
        YAML_ALIASES((holtra, random) -> check(holtra, bomb())),
        LONG_CONDITION((holtra, random) -> check(
                holtra,
                "lanes:\n  l: {inlets: [bench], outlet: out, pick: \"" + "data.a < 1 || ".repeat(2_000) + "true\"}\n"));

        private final Call call;

        Act(Call call) {
            this.call = call;
        }

        void happen(Running holtra, Random random) {
            call.to(holtra, random);
        }
    }

    private static String script(Random random) {
        int what = random.nextInt(50);
        return "{\"id\":\"evil-" + what + "\",\"p\":\"" + (what == 0 ? "07" : "0102") + "\"}";
    }

    private static byte[] tags(int count) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        for (int i = 0; i < count; i++) {
            out.write(0xc1);
        }
        return out.toByteArray();
    }

    private static String bomb() {
        StringBuilder bomb = new StringBuilder("a0: &a0 [x, x]\n");
        for (int i = 1; i < 20; i++) {
            bomb.append("a%d: &a%d [*a%d, *a%d]\n".formatted(i, i, i - 1, i - 1));
        }
        return bomb.toString();
    }

    private static void check(Running holtra, String setup) {
        send(
                holtra,
                "POST /api/v1/setup/check",
                "Authorization: Bearer " + holtra.key() + "\r\nContent-Type: application/yaml\r\n",
                setup.getBytes(StandardCharsets.UTF_8));
    }

    private static void inlet(Running holtra, String type, String body) {
        inlet(holtra, type, body.getBytes());
    }

    private static void inlet(Running holtra, String type, byte[] body) {
        send(holtra, "POST /in/hostile", "Authorization: Bearer bench-token\r\nContent-Type: " + type + "\r\n", body);
    }

    /** The answer is read up to its end; that the connection ends before is one of the answers there may be. */
    private static void send(Running holtra, String what, String headers, byte[] body) {
        URI address = URI.create(holtra.address());
        try (Socket socket = new Socket(InetAddress.getLoopbackAddress(), address.getPort())) {
            socket.setSoTimeout((int) READ_MILLIS);
            OutputStream out = socket.getOutputStream();
            out.write((what + " HTTP/1.1\r\nHost: x\r\nConnection: close\r\n" + headers + "Content-Length: "
                            + body.length + "\r\n\r\n")
                    .getBytes(StandardCharsets.US_ASCII));
            out.write(body);
            InputStream in = socket.getInputStream();
            in.readAllBytes();
        } catch (IOException e) {
            Running.pause(1); // refused unread, as it should be
        }
    }

    private static void join(Thread thread) {
        try {
            thread.join();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }
}
