package org.holtra.standins.plant;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import com.hivemq.client.mqtt.mqtt5.message.disconnect.Mqtt5DisconnectReasonCode;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadWriter;

/**
 * The edge node of a pump house: it is born with all its metrics and their units, sends those that a report has, is born anew when
 * it is asked, and dies when its connection breaks (Sparkplug B 3.0).
 */
final class PumpHouse {

    private static final String GROUP = "larkmoor";
    private static final long SEQUENCES = 256;

    /** Each metric's type and unit. */
    private enum Tag {
        STATE("state", MetricType.INT8, ""),
        FLOW("flow", MetricType.DOUBLE, "m3/h"),
        PRESSURE("pressure", MetricType.DOUBLE, "bar"),
        CURRENT("current", MetricType.DOUBLE, "A"),
        WATER("water", MetricType.DOUBLE, "m3"),
        ENERGY("energy", MetricType.DOUBLE, "kW.h");

        private final String name;
        private final MetricType type;
        private final String unit;

        Tag(String name, MetricType type, String unit) {
            this.name = name;
            this.type = type;
            this.unit = unit;
        }

        private Metric metric(Object value, long at, boolean named) {
            return new Metric(
                    named ? name : null,
                    (long) ordinal() + 1,
                    at,
                    named ? type : null,
                    false,
                    false,
                    value == null
                            ? null
                            : type == MetricType.INT8
                                    ? (Object) ((Number) value).longValue()
                                    : ((Number) value).doubleValue(),
                    named && !unit.isEmpty() ? Map.of("engUnit", unit) : Map.of());
        }
    }

    private final String name;
    private final String user;
    private final String password;
    private final Mqtt5AsyncClient client;
    private Map<String, Object> last = new LinkedHashMap<>();
    private long connection = -1;
    private long sequence;

    PumpHouse(String name, URI broker, String user, String password) {
        this.name = name;
        this.user = user;
        this.password = password;
        this.client = MqttClient.builder()
                .identifier("pump-house-" + name)
                .serverHost(broker.getHost())
                .serverPort(broker.getPort())
                .useMqttVersion5()
                .buildAsync();
    }

    /** Connects if it is not connected; then it is born, with the newest values it has. */
    synchronized void connect(long now) {
        if (client.getState().isConnectedOrReconnect()) {
            return;
        }
        connection = (connection + 1) % SEQUENCES;
        long its = connection;
        client.connectWith()
                .cleanStart(true)
                .keepAlive(15)
                .simpleAuth()
                .username(user)
                .password(password.getBytes(StandardCharsets.UTF_8))
                .applySimpleAuth()
                .willPublish()
                .topic(topic("NDEATH"))
                .payload(PayloadWriter.write(new Payload(now, List.of(birthDeath(its)), null)))
                .qos(MqttQos.AT_LEAST_ONCE)
                .applyWillPublish()
                .send()
                .thenCompose(connected -> client.subscribeWith()
                        .topicFilter("spBv1.0/" + GROUP + "/NCMD/" + name)
                        .qos(MqttQos.AT_LEAST_ONCE)
                        .callback(this::asked)
                        .send())
                .thenRun(() -> born(now))
                .exceptionally(failure -> {
                    System.err.println("pump house " + name + ": " + failure.getMessage());
                    return null;
                });
    }

    private static Metric birthDeath(long number) {
        return new Metric(Payload.BIRTH_DEATH_SEQUENCE, null, null, MetricType.INT64, false, false, number, Map.of());
    }

    /** The only command it knows is the one to be born anew. */
    private void asked(Mqtt5Publish command) {
        born(System.currentTimeMillis());
    }

    private synchronized void born(long now) {
        sequence = 0;
        List<Metric> metrics = new ArrayList<>();
        metrics.add(birthDeath(connection));
        metrics.add(new Metric("Node Control/Rebirth", null, now, MetricType.BOOLEAN, false, false, false, Map.of()));
        for (Tag tag : Tag.values()) {
            metrics.add(tag.metric(last.get(tag.name), now, true));
        }
        publish("NBIRTH", now, metrics);
    }

    /** @param values by the name of the metric */
    synchronized void report(Map<String, Object> values, long now) {
        last = values;
        if (!client.getState().isConnected()) {
            connect(now);
            return;
        }
        List<Metric> metrics = new ArrayList<>();
        for (Tag tag : Tag.values()) {
            metrics.add(tag.metric(values.get(tag.name), now, false));
        }
        publish("NDATA", now, metrics);
    }

    /** What it kept while its line was down: each value with its own time, and marked as late. */
    synchronized void late(Map<String, Object> values, long at, long now) {
        List<Metric> metrics = new ArrayList<>();
        for (Tag tag : Tag.values()) {
            Metric metric = tag.metric(values.get(tag.name), at, false);
            metrics.add(new Metric(null, metric.alias(), at, null, true, false, metric.raw(), Map.of()));
        }
        publish("NDATA", now, metrics);
    }

    boolean isBorn() {
        return client.getState().isConnected() && sequence > 0;
    }

    private void publish(String type, long now, List<Metric> metrics) {
        client.publishWith()
                .topic(topic(type))
                .payload(PayloadWriter.write(new Payload(now, metrics, sequence)))
                .qos(MqttQos.AT_MOST_ONCE)
                .send();
        sequence = (sequence + 1) % SEQUENCES;
    }

    private String topic(String type) {
        return "spBv1.0/" + GROUP + "/" + type + "/" + name;
    }

    /** As when its line is cut: the broker tells its death. */
    synchronized void die() {
        if (client.getState().isConnected()) {
            client.disconnectWith()
                    .reasonCode(Mqtt5DisconnectReasonCode.DISCONNECT_WITH_WILL_MESSAGE)
                    .send();
        }
    }

    CompletableFuture<Void> close() {
        return client.disconnect().exceptionally(gone -> null);
    }
}
