package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.atomic.AtomicLong;

/** What a healthy sender gets while another is refused, again and again. */
record RefusalBench(Database database, double seconds, Notebook notebook) {

    private static final double REFUSALS_A_SECOND = 10_000;
    private static final int CONNECTIONS = 16;
    private static final int ROUNDS = 5;
    private static final int WARMING = 20_000;

    /** Of what the inlet takes when it is alone: the refused ones need the rest of the machine. */
    private static final double SHARE = 0.3;

    void run() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(IntakeBench.CLOSED_LANE);
            Load healthy = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            URI address = URI.create(holtra.address() + "/in/bench");
            double full = 0;
            for (int round = 0; round < 4; round++) {
                full = healthy.full(0, WARMING).rate();
                refused(address, 1);
            }
            double pace = full * SHARE;
            int messages = (int) (pace * seconds);
            List<Load.Result> alone = new ArrayList<>();
            List<Load.Result> beside = new ArrayList<>();
            AtomicLong refused = new AtomicLong();
            for (int round = 0; round < ROUNDS; round++) {
                alone.add(healthy.paced(0, messages, pace, new long[messages]));
                Thread other = Thread.ofPlatform().start(() -> refused.addAndGet(refused(address, seconds)));
                beside.add(healthy.paced(0, messages, pace, new long[messages]));
                Load.join(other);
            }
            Load.Result one = middle(alone);
            Load.Result two = middle(beside);
            notebook.note("intake at " + rate(pace) + ", alone", rate(one.rate()), latency(one));
            notebook.note("  beside refusals", rate(two.rate()), latency(two));
            notebook.note("  beside alone: rate", ratio(two.rate() / one.rate()), "at least 0.9 is wanted");
            notebook.note("  calls refused meanwhile", rate(refused.get() / (seconds * ROUNDS)), "10,000 at most");
            notebook.note("  refused of the healthy", Integer.toString(two.refused()), "");
        }
        its.drop();
    }

    /** Calls with a wrong token, each on a connection of its own, since the service closes it; says how many were refused. */
    private static long refused(URI address, double seconds) {
        byte[] request = ("POST " + address.getPath()
                        + " HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer another\r\n"
                        + "Content-Type: application/json\r\nContent-Length: 2\r\n\r\n{}")
                .getBytes(StandardCharsets.US_ASCII);
        AtomicLong refused = new AtomicLong();
        long began = System.nanoTime();
        long until = began + (long) (seconds * 1e9);
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < CONNECTIONS; i++) {
            threads.add(Thread.ofPlatform().start(() -> {
                while (System.nanoTime() < until) {
                    if (refused.get() > (System.nanoTime() - began) / 1e9 * REFUSALS_A_SECOND) {
                        Running.pause(1);
                        continue;
                    }
                    try (Socket socket = new Socket(address.getHost(), address.getPort())) {
                        socket.getOutputStream().write(request);
                        Exchange answer = Exchange.read(new BufferedInputStream(socket.getInputStream()));
                        if (answer != null && answer.status() == 401) {
                            refused.incrementAndGet();
                        }
                    } catch (IOException e) {
                        throw new UncheckedIOException(e);
                    }
                }
            }));
        }
        threads.forEach(Load::join);
        return refused.get();
    }

    private static Load.Result middle(List<Load.Result> results) {
        return results.stream()
                .sorted(Comparator.comparingDouble(Load.Result::rate))
                .toList()
                .get(results.size() / 2);
    }
}
