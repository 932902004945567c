package org.holtra.bench.load;

import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.core.reading.sparkplug.SparkplugTopic;

/** A plant whose edge nodes are all born again because Holtra was started again. */
record BirthBench(Database database, Notebook notebook) {

    private static final int NODES = 100;
    private static final int DEVICES_OF_A_NODE = 100;
    private static final int METRICS = 10;
    private static final long LONGEST_NANOS = 120_000_000_000L;

    /** Of each node and each device: that it is online, and what it measured. */
    private static final int MESSAGES = 2 * NODES * (DEVICES_OF_A_NODE + 1) - NODES;

    private static final String SETUP = """
            connections:
              plant: {kind: mqtt, to: {address: "mqtt://127.0.0.1:%d"}}
            inlets:
              plant: {kind: sparkplug, at: {connection: plant, groups: [bench]}}
            """;

    void run() throws IOException {
        Database its = database.fresh();
        Path folder = Files.createTempDirectory("bench-births");
        try (TestedBroker broker = TestedBroker.start()) {
            Mqtt5AsyncClient plant = broker.client("plant");
            plant.subscribeWith()
                    .topicFilter("spBv1.0/STATE/holtra")
                    .qos(MqttQos.AT_LEAST_ONCE)
                    .callback(state -> {
                        if (new String(state.getPayloadAsBytes(), StandardCharsets.UTF_8).contains("true")) {
                            births(plant);
                        }
                    })
                    .send()
                    .join();
            try (Running first = Running.holtraAsLaunched(its, folder, false)) {
                long began = System.nanoTime();
                first.adopt(SETUP.formatted(broker.port()));
                awaitMessages(its, MESSAGES, began);
                note("births of %,d devices of %d edge nodes that were unknown", began, "each is entered first");
            }
            long began = System.nanoTime();
            try (Running again = Running.holtraAsLaunched(its, folder, true)) {
                awaitMessages(its, 2 * MESSAGES, began);
                note(
                        "the same after a restart, when they are known",
                        began,
                        String.format(Locale.ROOT, "%.1f s of it until the service answers", again.startSeconds()));
            }
            plant.disconnect();
        }
        its.drop();
    }

    private static void awaitMessages(Database its, int wanted, long began) {
        while (its.number("select count(*) from message where inlet = 'plant' and type != 'fault'") < wanted) {
            if (System.nanoTime() - began > LONGEST_NANOS) {
                throw new IllegalStateException(its.number("select count(*) from message") + " of " + wanted);
            }
            Running.pause(100);
        }
    }

    private void note(String what, long began, String beside) {
        notebook.note(
                String.format(Locale.ROOT, what, NODES * DEVICES_OF_A_NODE, NODES),
                String.format(Locale.ROOT, "%.1f s", (System.nanoTime() - began) / 1e9),
                beside);
    }

    /** All of them, of which nothing may be lost on the way to the broker: with QoS 1. */
    private static void births(Mqtt5AsyncClient plant) {
        for (int node = 0; node < NODES; node++) {
            long sequence = 0;
            publish(plant, new SparkplugTopic("bench", SparkplugTopic.Type.NBIRTH, "n" + node, null), sequence++);
            for (int device = 0; device < DEVICES_OF_A_NODE; device++) {
                publish(
                        plant,
                        new SparkplugTopic("bench", SparkplugTopic.Type.DBIRTH, "n" + node, "d" + device),
                        sequence++);
            }
        }
    }

    private static void publish(Mqtt5AsyncClient plant, SparkplugTopic topic, long sequence) {
        long now = System.currentTimeMillis();
        List<Metric> metrics = new ArrayList<>();
        if (topic.device() == null) {
            metrics.add(
                    new Metric(Payload.BIRTH_DEATH_SEQUENCE, null, now, MetricType.INT64, false, false, 1L, Map.of()));
        } else {
            for (int metric = 0; metric < METRICS; metric++) {
                metrics.add(new Metric(
                        "Metric" + metric,
                        (long) metric,
                        now,
                        MetricType.DOUBLE,
                        false,
                        false,
                        metric / 2.0,
                        Map.of("engUnit", "bar")));
            }
        }
        plant.publishWith()
                .topic(topic.toString())
                .payload(PayloadWriter.write(new Payload(now, metrics, sequence % 256)))
                .qos(MqttQos.AT_LEAST_ONCE)
                .send();
    }
}
