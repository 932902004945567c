package org.holtra.service.kinds.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestBroker;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Edge nodes that speak Sparkplug B over a real broker. */
class SparkplugInletTest extends ServiceTest {

    private TestBroker broker;

    @BeforeEach
    void startBroker() {
        broker = TestBroker.open();
    }

    @AfterEach
    void endBroker() {
        broker.close();
    }

    private void adopt(String at) {
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s"}}
                inlets:
                  s: {kind: sparkplug, at: {connection: plant%s}}
                outlets:
                  r: {kind: http, to: {url: "%s"}}
                lanes:
                  r: {inlets: [s], outlet: r, order: device, shape: {body: {who: "${device.key}", what: "${meta.type}", data: "${data}"}}}
                """.formatted(broker.address(), at, receiver.address())));
        Client.await(
                () -> client.get("/api/v1/inlets")
                        .path(0)
                        .at("/connection/state")
                        .asString(),
                "connected"::equals);
    }

    private static Metric metric(String name, Long alias, MetricType type, Object value) {
        return new Metric(name, alias, null, type, false, false, value, Map.of());
    }

    private void publish(String type, long sequence, Metric... metrics) {
        broker.publishBytes(
                "spBv1.0/larkmoor/" + type,
                PayloadWriter.write(new Payload(System.currentTimeMillis(), List.of(metrics), sequence)));
    }

    private List<String> came(int number) {
        return Client.await(
                () -> receiver.came().stream()
                        .map(one -> {
                            JsonNode body = Client.JSON.readTree(one.body());
                            return body.path("who").asString() + " "
                                    + body.path("what").asString() + " " + body.path("data");
                        })
                        .toList(),
                all -> all.size() >= number);
    }

    @Test
    void birthsDataAndDeathsBecomeMessagesOfDevicesThatAppearByThemselves() {
        adopt("");
        publish(
                "NBIRTH/ph-01",
                0,
                metric("bdSeq", null, MetricType.INT64, 0L),
                metric("Flow", 1L, MetricType.FLOAT, 12.3f));
        publish("NDATA/ph-01", 1, metric(null, 1L, null, 12.5f));
        publish("DBIRTH/ph-01/pump", 2, metric("Speed", 2L, MetricType.INT32, 900L));
        publish("NDEATH/ph-01", 0, metric("bdSeq", null, MetricType.INT64, 0L));

        assertThat(came(7))
                .containsExactlyInAnyOrder(
                        "larkmoor/ph-01 status {\"online\":true}",
                        "larkmoor/ph-01 reading {\"Flow\":12.3}",
                        "larkmoor/ph-01 reading {\"Flow\":12.5}",
                        "larkmoor/ph-01/pump status {\"online\":true}",
                        "larkmoor/ph-01/pump reading {\"Speed\":900}",
                        "larkmoor/ph-01/pump status {\"online\":false}",
                        "larkmoor/ph-01 status {\"online\":false}");
        assertThat(client.get("/api/v1/devices").toString()).contains("larkmoor/ph-01/pump");
    }

    @Test
    void whatABirthSaysOfItsMetricsStandsBesideTheFields() {
        adopt("");
        publish(
                "NBIRTH/ph-01",
                0,
                metric("bdSeq", null, MetricType.INT64, 0L),
                new Metric(
                        "Pump/Flow",
                        1L,
                        null,
                        MetricType.FLOAT,
                        false,
                        false,
                        12.3f,
                        Map.of("engUnit", "m3/h", "engHigh", 40L)));
        came(2);

        JsonNode field = Client.await(
                () -> client.get("/api/v1/fields/known?inlets=s")
                        .valueStream()
                        .filter(one -> one.path("path").asString().equals("data.Pump.Flow"))
                        .findFirst()
                        .orElse(Client.JSON.nullNode()),
                one -> !one.isNull());
        assertThat(field.path("unit").asString()).isEqualTo("m3/h");
        assertThat(field.at("/described/type").asString()).isEqualTo("Float");
        assertThat(field.at("/described/properties/engHigh").asInt()).isEqualTo(40);

        restart();

        Client.await(() -> client.get("/api/v1/fields").toString(), fields -> fields.contains("\"unit\":\"m3/h\""));
    }

    @Test
    void aNodeThatCannotBeUnderstoodIsAskedForANewBirth() {
        Queue<Mqtt5Publish> commands = broker.listen("spBv1.0/larkmoor/NCMD/#");
        adopt("");

        publish("NDATA/ph-01", 7, metric(null, 1L, null, 12.5f));

        Mqtt5Publish command = Client.await(commands::peek, one -> one != null);
        assertThat(command.getTopic()).hasToString("spBv1.0/larkmoor/NCMD/ph-01");
        assertThat(new String(command.getPayloadAsBytes(), StandardCharsets.ISO_8859_1))
                .contains("Node Control/Rebirth");
        Client.await(
                () -> client.get("/api/v1/inlets/s/diary").toString(),
                diary -> diary.contains("asks edge node larkmoor/ph-01 for a new birth: its birth was not heard"));
    }

    @Test
    void edgeNodesSeeWhetherTheHostIsThere() {
        Queue<Mqtt5Publish> states = broker.listen("spBv1.0/STATE/larkmoor-host");
        adopt(", host: larkmoor-host");
        Client.await(states::size, size -> size == 1);

        Client.good(client.post("/api/v1/setup/parts/inlets/s/close", null));

        Client.await(states::size, size -> size >= 2);
        assertThat(states.stream().map(one -> new String(one.getPayloadAsBytes(), StandardCharsets.UTF_8)))
                .first()
                .asString()
                .contains("\"online\":true");
        assertThat(states.stream()
                        .map(one -> new String(one.getPayloadAsBytes(), StandardCharsets.UTF_8))
                        .skip(1))
                .first()
                .asString()
                .contains("\"online\":false");
    }

    @Test
    void onlyWhatIsChosenIsTaken() {
        adopt(", nodes: [ph-01], metrics: [Flow]");
        publish("NBIRTH/ph-02", 0, metric("Flow", null, MetricType.DOUBLE, 1.0));
        publish(
                "NBIRTH/ph-01",
                0,
                metric("Flow", null, MetricType.DOUBLE, 2.0),
                metric("Pressure", null, MetricType.DOUBLE, 3.0));

        assertThat(came(2))
                .containsExactly("larkmoor/ph-01 status {\"online\":true}", "larkmoor/ph-01 reading {\"Flow\":2}");
    }

    @Test
    void aPayloadThatIsNoneIsKeptAsUnreadable() {
        adopt("");
        broker.publish("spBv1.0/larkmoor/NDATA/ph-01", "not of Sparkplug");

        Client.await(() -> client.get("/api/v1/messages").toString(), messages -> messages.contains("unreadable"));
    }
}
