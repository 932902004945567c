package org.holtra.bench.load;

import java.io.IOException;
import java.util.function.LongSupplier;

/** Messages from an MQTT broker with QoS 1, kept and sent on, beside a bare client that keeps them. */
record BrokerBench(Database database, double seconds, Notebook notebook) {

    private static final int ROUNDS = 3;
    private static final int WARMING = 20_000;
    private static final long LONGEST_NANOS = 60_000_000_000L;

    private static final String SETUP = """
            connections:
              plant: {kind: mqtt, to: {address: "mqtt://127.0.0.1:%1$d"}}
            inlets:
              bench: {kind: mqtt, at: {connection: plant, topics: [bench], receiveMaximum: 1000}, format: json, device: data.id}
            outlets:
              http: {kind: http, to: {url: "%2$s/o0", concurrency: 32}}
              points: {kind: timeseries, to: {url: "%2$s/write", measurement: bench}, batch: {messages: 500, wait: 100ms}}
              rows: {kind: sql, to: {address: "%3$s", credential: rows, table: rows}, batch: {messages: 500, wait: 100ms}}
            lanes:
              http: {inlets: [bench], pick: %4$s, outlet: http}
              points:
                inlets: [bench]
                pick: %5$s
                outlet: points
                shape: {body: {tags: {device: "${device.key}"}, fields: {air: "${data.airTemperature}", wet: "${data.wetBulb}"}, time: "${meta.eventTime}"}}
              rows:
                inlets: [bench]
                pick: %6$s
                outlet: rows
                shape: {body: {device: "${device.key}", air: "${data.airTemperature}", measured: "${meta.eventTime}"}}
            """;

    void run() throws IOException {
        int messages = (int) Math.max(WARMING, 5_000 * seconds);
        Database bares = database.fresh();
        double bare = 0;
        try (TestedBroker broker = TestedBroker.start();
                BareSubscriber subscriber = new BareSubscriber(broker, bares, "bench")) {
            for (int round = 0; round < ROUNDS; round++) {
                bare = rate(broker, messages, subscriber::kept);
            }
        }
        bares.drop();
        notebook.note("bare client: subscribes with QoS 1, inserts in groups, acknowledges", figure(bare), "");
        Database rows = database.fresh();
        rows.run(
                "create table rows (message_key text primary key, device text, air double precision, measured timestamptz)");
        Database its = database.fresh();
        try (Sink sink = new Sink();
                TestedBroker broker = TestedBroker.start();
                Running holtra = Running.holtra(its, null)) {
            holtra.save("rows", java.util.Map.of("form", "login", "user", "holtra", "password", rows.password()));
            note("MQTT QoS 1 in, kept", through(its, broker, holtra, sink, rows, "", messages), bare);
            note("  and sent on over HTTP", through(its, broker, holtra, sink, rows, "http", messages), bare);
            note(
                    "  and written as points, 500 a request",
                    through(its, broker, holtra, sink, rows, "points", messages),
                    bare);
            note(
                    "  and written as rows, 500 a transaction",
                    through(its, broker, holtra, sink, rows, "rows", messages),
                    bare);
        }
        its.drop();
        rows.drop();
    }

    private void note(String what, double rate, double bare) {
        notebook.note(what, figure(rate), String.format(java.util.Locale.ROOT, "%.2f of the bare client", rate / bare));
    }

    private static String figure(double rate) {
        return String.format(java.util.Locale.ROOT, "%,.0f a second", rate);
    }

    /** @param lane the one that takes what comes; empty for none */
    private double through(
            Database its, TestedBroker broker, Running holtra, Sink sink, Database rows, String lane, int messages)
            throws IOException {
        String address = rows.url().substring("jdbc:".length());
        holtra.adopt(SETUP.formatted(
                broker.port(),
                sink.address(),
                address,
                lane.equals("http"),
                lane.equals("points"),
                lane.equals("rows")));
        holtra.awaitConnected("bench");
        String count = lane.isEmpty()
                ? "select count(*) from message"
                : "select count(*) from outcome where lane = '" + lane + "'";
        double rate = 0;
        for (int round = 0; round < ROUNDS; round++) {
            sink.reset(0);
            rate = rate(broker, messages, () -> its.number(count));
        }
        return rate;
    }

    /** Messages a second, from when the first is published until the last is counted. */
    private static double rate(TestedBroker broker, int messages, LongSupplier counted) {
        long wanted = counted.getAsLong() + messages;
        long began = System.nanoTime();
        broker.publish("bench", messages);
        while (counted.getAsLong() < wanted) {
            if (System.nanoTime() - began > LONGEST_NANOS) {
                throw new IllegalStateException(counted.getAsLong() + " of " + wanted);
            }
            // Counting rows takes of the same processors.
            Running.pause(200);
        }
        return messages / ((System.nanoTime() - began) / 1e9);
    }
}
