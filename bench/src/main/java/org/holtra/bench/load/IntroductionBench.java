package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.EntityUtils;
import org.apache.hc.core5.http.io.entity.StringEntity;

/** Many devices introduced at a registry that takes its time, beside a bare loop that asks it the same; and what a known one costs. */
record IntroductionBench(Database database, double seconds, Notebook notebook) {

    private static final int DEVICES = 10_000;
    private static final int AT_ONCE = 32;
    private static final long ANSWER_MILLIS = 20;
    private static final long LONGEST_NANOS = 600_000_000_000L;
    private static final int TURNS = 5;

    private static final String SETUP = """
            inlets:
              bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
            outlets:
              registry:
                kind: http
                to: {url: "%s", concurrency: %d}
                introduction:
                  atOnce: %d
                  find: {shape: {method: GET, path: "/devices?key=${device.key}"}, id: "answer.body.items[0].id"}
                  create: {shape: {path: /devices, body: {key: "${device.key}"}}, id: answer.body.id}
                  activate: {shape: {method: PUT, path: "/devices/${there.id}/state", body: {active: true}}}
            lanes: {}
            """;

    void run() throws IOException {
        Database its = database.fresh();
        try (Registry registry = new Registry();
                Running holtra = Running.holtra(its, null)) {
            double bare = bare(registry);
            notebook.note(
                    String.format(
                            Locale.ROOT,
                            "bare loop: find, create and activate %,d devices, %d at once, answers after %d ms",
                            DEVICES,
                            AT_ONCE,
                            ANSWER_MILLIS),
                    rate(bare),
                    "");
            holtra.adopt(SETUP.formatted(registry.address(), AT_ONCE, AT_ONCE));
            enter(holtra);
            long began = System.nanoTime();
            holtra.call("POST", "/api/v1/outlets/registry/introductions", "{}", "application/json");
            awaitKnown(its, began);
            double introduced = DEVICES / ((System.nanoTime() - began) / 1e9);
            notebook.note(
                    "Holtra introduces the same devices",
                    rate(introduced),
                    ratio(introduced / bare) + " of the bare loop; at least 0.7 is wanted");
        }
        its.drop();
        known();
    }

    /** By the table of devices, which takes them at once. */
    private static void enter(Running holtra) {
        StringBuilder table = new StringBuilder("key,fact:row\n");
        for (int n = 0; n < DEVICES; n++) {
            table.append("device-").append(n).append(',').append(n).append('\n');
        }
        holtra.call("POST", "/api/v1/devices/table", table.toString(), "text/csv");
    }

    private static void awaitKnown(Database its, long began) {
        while (its.number("select count(*) from introduction where state = 'known'") < DEVICES) {
            if (System.nanoTime() - began > LONGEST_NANOS) {
                throw new IllegalStateException("not all devices became known");
            }
            Running.pause(50);
        }
    }

    /** Deliveries of devices that are known, beside the same without a recipe. */
    private void known() throws IOException {
        Database its = database.fresh();
        try (Sink sink = new Sink();
                Running holtra = Running.holtra(its, null)) {
            Sender sender = new Sender(holtra.address() + "/in/bench");
            String plain = Lanes.healthy(sink.address(), 1);
            String recipe = plain.replace(
                    "out-0: {kind: http, ", "out-0: {kind: http, introduction: {create: {shape: {body: {a: 1}}}}, ");
            holtra.adopt(recipe);
            int messages = (int) Math.max(1_000, sender.warmThrough(sink, 1) * seconds);
            List<Double> ratios = new ArrayList<>();
            double rate = 0;
            for (int turn = 0; turn < TURNS; turn++) {
                holtra.adopt(plain);
                double without = sender.through(sink, messages, 1);
                holtra.adopt(recipe);
                rate = sender.through(sink, messages, 1);
                ratios.add(rate / without);
            }
            ratios.sort(Double::compare);
            notebook.note(
                    "deliveries of devices that are known at a destination with a recipe",
                    rate(rate),
                    ratio(ratios.get(TURNS / 2)) + " of those without one");
        }
        its.drop();
    }

    private static double bare(Registry registry) throws IOException {
        try (CloseableHttpClient client = HttpClients.custom()
                .setConnectionManager(PoolingHttpClientConnectionManagerBuilder.create()
                        .setMaxConnTotal(AT_ONCE)
                        .setMaxConnPerRoute(AT_ONCE)
                        .build())
                .build()) {
            AtomicInteger next = new AtomicInteger();
            List<Thread> threads = new ArrayList<>();
            long began = System.nanoTime();
            for (int i = 0; i < AT_ONCE; i++) {
                threads.add(Thread.ofVirtual().start(() -> {
                    for (int n = next.getAndIncrement(); n < DEVICES; n = next.getAndIncrement()) {
                        ask(client, "GET", registry.address() + "/devices?key=bare-" + n, null);
                        ask(client, "POST", registry.address() + "/devices", "{\"key\":\"bare-" + n + "\"}");
                        ask(client, "PUT", registry.address() + "/devices/" + n + "/state", "{\"active\":true}");
                    }
                }));
            }
            threads.forEach(Load::join);
            return DEVICES / ((System.nanoTime() - began) / 1e9);
        }
    }

    private static void ask(CloseableHttpClient client, String method, String address, String body) {
        HttpUriRequestBase request = new HttpUriRequestBase(method, java.net.URI.create(address));
        if (body != null) {
            request.setEntity(new StringEntity(body, ContentType.APPLICATION_JSON));
        }
        try {
            client.execute(request, answer -> EntityUtils.toString(answer.getEntity()));
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Knows nobody, creates everybody, and takes its time. */
    private static final class Registry implements AutoCloseable {

        private final HttpServer server;
        private final AtomicInteger ids = new AtomicInteger();

        Registry() throws IOException {
            server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 256);
            server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
            server.createContext("/", this::answer);
            server.start();
        }

        String address() {
            return "http://127.0.0.1:" + server.getAddress().getPort();
        }

        private void answer(HttpExchange exchange) throws IOException {
            try (exchange) {
                exchange.getRequestBody().readAllBytes();
                Thread.sleep(ANSWER_MILLIS);
                String body = exchange.getRequestMethod().equals("GET")
                        ? "{\"items\":[]}"
                        : "{\"id\":\"d" + ids.incrementAndGet() + "\"}";
                byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
                exchange.getResponseHeaders().set("Content-Type", "application/json");
                exchange.sendResponseHeaders(200, bytes.length);
                exchange.getResponseBody().write(bytes);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }

        @Override
        public void close() {
            server.stop(0);
        }
    }
}
