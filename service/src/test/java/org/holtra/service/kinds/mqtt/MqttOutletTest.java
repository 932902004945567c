package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.Map;
import java.util.Queue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestBroker;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;

/** Deliveries that are published to a real broker. */
class MqttOutletTest extends MqttTest {

    private void adopt(String to, String outlet, String shape) {
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s"%s}}
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: mqtt, to: {connection: plant%s}}
                lanes:
                  l: {inlets: [i], outlet: o, order: device, shape: %s}
                """.formatted(broker.address(), to, outlet, shape)));
    }

    private String send(int number) {
        return client.send("i", "{\"id\":\"north\",\"n\":" + number + "}");
    }

    private static Mqtt5Publish first(Queue<Mqtt5Publish> came) {
        return Client.await(came::peek, one -> one != null);
    }

    private static String text(Mqtt5Publish publish) {
        return new String(publish.getPayloadAsBytes(), StandardCharsets.UTF_8);
    }

    private static Map<String, String> properties(Mqtt5Publish publish) {
        return publish.getUserProperties().asList().stream()
                .collect(Collectors.toMap(
                        one -> one.getName().toString(), one -> one.getValue().toString()));
    }

    private JsonNode outlet() {
        return client.get("/api/v1/outlets").get(0);
    }

    @ParameterizedTest
    @ValueSource(strings = {"larkmoor", "larkmoor/"})
    void theTopicIsATemplateUnderABaseWithOrWithoutItsSlash(String base) {
        broker = TestBroker.open();
        Queue<Mqtt5Publish> came = broker.listen("larkmoor/#");
        adopt("", ", base: \"" + base + "\"", "{topic: \"field/${device.key}/n\", body: {n: \"${data.n}\"}}");

        String id = send(1);

        Mqtt5Publish publish = first(came);
        assertThat(publish.getTopic()).hasToString("larkmoor/field/north/n");
        assertThat(text(publish)).isEqualTo("{\"n\":1}");
        assertThat(properties(publish)).containsEntry("idempotency-key", id + ".l");
        assertThat(properties(publish).get("traceparent")).contains(id.replace("-", ""));
        JsonNode trace = becomes(id, "delivered");
        assertThat(trace.toString()).contains("PUBLISH larkmoor/field/north/n").contains("0x00");
    }

    @Test
    void userPropertiesRetainAndExpiryAreSet() {
        broker = TestBroker.open();
        Queue<Mqtt5Publish> came = broker.listen("#");
        adopt(
                "",
                ", topic: t, retain: true, expiry: 1h, qos: 2",
                "{properties: {site: \"${data.id}\"}, body: {n: \"${data.n}\"}}");

        long began = System.nanoTime();
        becomes(send(1), "delivered");

        Mqtt5Publish publish = first(came);
        // The broker takes off what the message spent with it (MQTT 5, 3.3.2.3.3).
        long seconds = TimeUnit.NANOSECONDS.toSeconds(System.nanoTime() - began);
        assertThat(properties(publish)).containsEntry("site", "north");
        assertThat(publish.getMessageExpiryInterval().orElseThrow()).isBetween(3_599L - seconds, 3_600L);
        assertThat(publish.getContentType().map(Object::toString)).contains("application/json");
        assertThat(first(broker.listen("t")).isRetain()).isTrue();
    }

    @Test
    void aBrokerOfTheOlderVersionIsPublishedToAsWell() {
        broker = TestBroker.open();
        Queue<Mqtt5Publish> came = broker.listen("#");
        adopt(", version: \"3.1.1\"", ", topic: t", "{body: {n: \"${data.n}\"}}");

        JsonNode trace = becomes(send(1), "delivered");

        assertThat(text(first(came))).isEqualTo("{\"n\":1}");
        assertThat(trace.toString()).contains("acknowledged");
    }

    @Test
    void withoutATopicADeliveryIsDeadAndSaysWhatToSet() {
        broker = TestBroker.open();
        adopt("", "", "{body: {n: \"${data.n}\"}}");

        assertThat(becomes(send(1), "dead").toString()).contains("set `topic` in one of them");
    }

    @Test
    void aTopicThatTheUserMayNotPublishToHoldsTheDevice() throws IOException {
        broker = TestBroker.made("allow_anonymous true", "acl_file FOLDER/acl");
        Files.writeString(broker.folder().resolve("acl"), "topic write allowed/#\n");
        broker.start();
        adopt("", "", "{topic: \"${data.n == 1.0 ? 'other' : 'allowed/x'}\", body: {n: \"${data.n}\"}}");

        String id = send(1);

        Client.await(() -> outlet().path("heldDevices").asInt(), held -> held == 1);
        client.traceWhen(id, trace -> trace.toString().contains("the user may not publish to `other`"));
    }

    @Test
    void whileTheBrokerIsAwayDeliveriesWaitAndThenGoInOrder() {
        broker = TestBroker.open();
        adopt("", ", topic: t", "{body: {n: \"${data.n}\"}}");
        becomes(send(0), "delivered");
        broker.stop();
        for (int n = 1; n <= 5; n++) {
            send(n);
        }
        Client.await(() -> outlet().path("state").asString(), "broken"::equals);
        Client.await(() -> outlet().at("/connection/reason").asString(), reason -> reason.contains("nobody listens"));

        broker.start();
        Queue<Mqtt5Publish> came = broker.listen("t");
        Client.await(came::size, size -> size >= 5);
        assertThat(came)
                .extracting(MqttOutletTest::text)
                .containsExactly("{\"n\":1}", "{\"n\":2}", "{\"n\":3}", "{\"n\":4}", "{\"n\":5}");
    }

    @Test
    void aRefusedPasswordBlocksTheOutletUntilItIsMended() {
        broker = TestBroker.closed("pumps", "first-password");
        saveLogin("pumps", "wrong-password");
        adopt(", credential: plant-login", ", topic: t", "{body: {n: \"${data.n}\"}}");
        String id = send(1);
        Client.await(() -> outlet().path("state").asString(), "blocked"::equals);
        assertThat(outlet().path("reason").asString()).contains("does not let user `pumps` in");

        saveLogin("pumps", "first-password");

        becomes(id, "delivered");
    }

    @Test
    void theLastWillIsPublishedWhenTheConnectionBreaks() {
        broker = TestBroker.open();
        Queue<Mqtt5Publish> came = broker.listen("state");
        adopt("", ", topic: t, clientId: holtra-o, will: {topic: state, text: gone}", "{body: {n: \"${data.n}\"}}");
        becomes(send(1), "delivered");

        broker.connectAs("holtra-o");

        assertThat(text(first(came))).isEqualTo("gone");
    }
}
