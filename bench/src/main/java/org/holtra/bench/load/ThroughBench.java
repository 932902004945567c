package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicInteger;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.io.entity.EntityUtils;

/** HTTP in to HTTP out, in turns with a forwarder that keeps nothing. */
record ThroughBench(Database database, double seconds, Notebook notebook) {

    void run() throws IOException {
        try (Sink sink = new Sink()) {
            notebook.note(
                    "bare loop of the same HTTP client to the same receiver, 32 at once", rate(clientLoop(sink)), "");
            Database one = database.fresh();
            Database two = database.fresh();
            try (Running holtra = Running.holtra(one, null)) {
                holtra.adopt(Lanes.healthy(sink.address(), 1));
                Sender mine = new Sender(holtra.address() + "/in/bench");
                int messages = count(mine.warmThrough(sink, 1));
                double rate = beside(sink, mine, messages);
                cost(sink, mine, messages, holtra, one);
                for (double share : new double[] {.1, .5, .9}) {
                    Load.Result result = Turns.middle(
                            () -> mine.endToEnd(sink, count(rate * share), rate * share), it -> it.millis(.99));
                    notebook.note(
                            String.format(Locale.ROOT, "end to end at %.0f %% of the highest rate", share * 100),
                            latency(result),
                            rate(rate * share));
                }
                tenLanes(sink, mine, messages, two);
            }
            one.drop();
            two.drop();
        }
    }

    private double beside(Sink sink, Sender mine, int messages) throws IOException {
        try (Running bare = Running.bare("forward", sink.address())) {
            Sender forward = new Sender(bare.address() + "/in");
            int others = count(forward.warm());
            Turns<Double> turns = Turns.of(
                    () -> mine.through(sink, messages, 1),
                    () -> forward.full(others).rate(),
                    it -> it);
            notebook.note("unsafe forwarder: posts on and answers, keeps nothing", rate(turns.other()), "");
            notebook.note(
                    "Holtra, HTTP in to HTTP out, one lane",
                    rate(turns.mine()),
                    ratio(turns.ratio()) + " of the forwarder; at least 0.5 is wanted");
            return turns.mine();
        }
    }

    private void cost(Sink sink, Sender mine, int messages, Running holtra, Database one) {
        double service = Cpu.seconds(holtra.pid());
        double server = Cpu.seconds(one.server());
        mine.through(sink, messages, 1);
        notebook.note(
                "  a message then costs, of the processors",
                Cpu.cost(Cpu.seconds(holtra.pid()) - service, Cpu.seconds(one.server()) - server, messages),
                "");
    }

    private void tenLanes(Sink sink, Sender one, int messages, Database two) throws IOException {
        try (Running holtra = Running.holtra(two, null)) {
            holtra.adopt(Lanes.healthy(sink.address(), 10));
            Sender ten = new Sender(holtra.address() + "/in/bench");
            int others = count(ten.warmThrough(sink, 10) / 10);
            Turns<Double> turns =
                    Turns.of(() -> ten.through(sink, others, 10), () -> one.through(sink, messages, 1), it -> it);
            notebook.note(
                    "Holtra, ten lanes of one inlet, deliveries",
                    rate(turns.mine()),
                    ratio(turns.ratio()) + " of one lane; at least 1 is wanted");
        }
    }

    private int count(double rate) {
        return (int) Math.max(1_000, rate * seconds);
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
}
