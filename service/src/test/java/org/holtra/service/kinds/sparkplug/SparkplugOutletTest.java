package org.holtra.service.kinds.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import org.holtra.core.reading.sparkplug.EdgePublisher;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadReader;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.service.support.TestBroker;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Devices that are published as those of an edge node, over a real broker. */
class SparkplugOutletTest extends SharedServiceTest {

    private TestBroker broker;
    private Queue<Mqtt5Publish> heard;

    @BeforeEach
    void startBroker() {
        broker = TestBroker.open();
        heard = broker.listen("spBv1.0/larkmoor/#");
    }

    @AfterEach
    void endBroker() {
        broker.close();
    }

    private void adopt(String to) {
        adopt(to, "", "", "");
    }

    private void adopt(String to, String lane, String inlet, String outlet) {
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s"}}
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                %s
                outlets:
                  edge: {kind: sparkplug, to: {connection: plant, group: larkmoor, node: holtra%s}}
                %s
                lanes:
                  l:
                    inlets: [i]
                    outlet: edge
                    order: device
                    retry: {first: 200ms, longest: 500ms}
                    shape: {body: {device: "${device.key}", time: "${meta.eventTime}", metrics: "${data.m}"}}
                %s""".formatted(broker.address(), inlet, to, outlet, lane)));
    }

    private String send(String device, int minute, String metrics) {
        return client.send(
                "i", "{\"id\":\"%s\",\"at\":\"2026-04-18T05:%02d:00Z\",\"m\":%s}".formatted(device, minute, metrics));
    }

    /** What was published, without the births of the edge node itself, as text. */
    private List<String> published() {
        List<String> all = new ArrayList<>();
        for (Mqtt5Publish one : heard) {
            String topic = one.getTopic().toString().substring("spBv1.0/larkmoor/".length());
            if (!topic.startsWith("D")) {
                continue;
            }
            StringBuilder text = new StringBuilder(topic);
            for (Metric metric : read(one).metrics()) {
                text.append(' ')
                        .append(metric.name())
                        .append('=')
                        .append(metric.value())
                        .append(metric.historical() ? " (historical)" : "");
            }
            all.add(text.toString());
        }
        return all;
    }

    private static Payload read(Mqtt5Publish message) {
        try {
            return PayloadReader.read(message.getPayloadAsBytes());
        } catch (PayloadReader.Unreadable e) {
            throw new AssertionError(e);
        }
    }

    private List<String> published(int number) {
        return Client.await(this::published, all -> all.size() >= number);
    }

    private long births() {
        return heard.stream()
                .filter(one -> one.getTopic().toString().contains("/NBIRTH/"))
                .count();
    }

    @Test
    void aDeviceIsBornThenItsDataFollowInOneSequence() {
        adopt("");
        becomes(send("st-1", 1, "{\"air\":4.5,\"leaf\":{\"wet\":true}}"), "delivered");
        becomes(send("st-1", 2, "{\"air\":5}"), "delivered");
        JsonNode late = becomes(send("st-1", 0, "{\"air\":4}"), "delivered");

        assertThat(published(3))
                .containsExactly(
                        "DBIRTH/holtra/st-1 air=4.5 leaf/wet=true",
                        "DDATA/holtra/st-1 air=5.0",
                        "DDATA/holtra/st-1 air=4.0 (historical)");
        assertThat(heard.stream().map(one -> read(one).sequence())).containsExactly(0L, 1L, 2L, 3L);
        assertThat(late.toString()).contains("publish spBv1.0/larkmoor/DDATA/holtra/st-1");
    }

    @Test
    void aHostThatAsksHearsAllBirthsAgain() {
        adopt("");
        becomes(send("st-1", 1, "{\"air\":4.5}"), "delivered");
        published(1);
        Metric rebirth =
                new Metric(EdgePublisher.REBIRTH, null, null, MetricType.BOOLEAN, false, false, true, Map.of());

        broker.publishBytes(
                "spBv1.0/larkmoor/NCMD/holtra", PayloadWriter.write(new Payload(1L, List.of(rebirth), null)));

        assertThat(published(2)).containsExactly("DBIRTH/holtra/st-1 air=4.5", "DBIRTH/holtra/st-1 air=4.5");
        assertThat(births()).isEqualTo(2);
        assertThat(heard.peek().getTopic().toString()).contains("/NBIRTH/");
    }

    @Test
    void aConnectionThatBreaksIsDeadAndIsBornAnewWithItsDevices() {
        adopt("");
        becomes(send("st-1", 1, "{\"air\":4.5}"), "delivered");
        published(1);

        broker.stop();
        broker.start();
        heard = broker.listen("spBv1.0/larkmoor/#");
        String id = send("st-1", 2, "{\"air\":5.5}");

        becomes(id, "delivered");
        Client.await(this::published, all -> all.toString().contains("air=5.5"));
    }

    @Test
    void whatItsHostDoesNotHearWaitsForIt() {
        adopt(", host: scada");
        String id = send("st-1", 1, "{\"air\":4.5}");
        Client.await(() -> client.trace(id).toString(), trace -> trace.contains("host scada is offline"));
        assertThat(published()).isEmpty();

        broker.publish("spBv1.0/STATE/scada", "{\"online\":true,\"timestamp\":1}");

        becomes(id, "delivered");
        assertThat(published(1)).containsExactly("DBIRTH/holtra/st-1 air=4.5");
    }

    @Test
    void aHostHearsTheDevicesWithTheirTypes() {
        adopt(
                ", wholeNumbers: [starts], qos: 1",
                """
                  back: {inlets: [s], outlet: r, order: device, pick: meta.type == 'reading', shape: {body: {who: "${device.key}", at: "${meta.eventTime}", data: "${data}"}}}
                """,
                "  s: {kind: sparkplug, at: {connection: plant}}",
                "  r: {kind: http, to: {url: \"%s\"}}".formatted(receiver.address()));
        Client.await(
                () -> client.get("/api/v1/inlets").toString(), inlets -> inlets.contains("hears edge nodes as host"));

        becomes(send("st-1", 1, "{\"air\":4.5,\"starts\":7,\"on\":false}"), "delivered");

        Client.await(receiver::came, came -> !came.isEmpty());
        assertThat(receiver.came().getFirst().body())
                .isEqualTo("{\"who\":\"larkmoor/holtra/st-1\",\"at\":\"2026-04-18T05:01:00Z\","
                        + "\"data\":{\"air\":4.5,\"starts\":7,\"on\":false}}");
        assertThat(client.get("/api/v1/outlets").toString()).contains("edge node larkmoor/holtra at plant");
    }

    @Test
    void whatIsNoReadingIsRefusedWithTheReason() {
        adopt("");

        JsonNode dead = becomes(send("st-1", 1, "7"), "dead");

        assertThat(dead.toString()).contains("the lane's shape has to make an object with device, time and metrics");
    }
}
