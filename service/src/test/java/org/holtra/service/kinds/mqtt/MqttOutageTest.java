package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestBroker;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

/** What becomes of a broker's messages while the database is away. */
class MqttOutageTest {

    private static String state(Client client) {
        return client.get("/api/v1/inlets").path(0).at("/connection/state").asString();
    }

    /** Of each idempotency key, in the order in which they came first. */
    private static List<String> numbers(Receiver receiver) {
        Map<String, String> byKey = new LinkedHashMap<>();
        receiver.came()
                .forEach(one -> byKey.putIfAbsent(
                        one.header("Idempotency-Key"),
                        Client.JSON.readTree(one.body()).path("n").asString()));
        return List.copyOf(byKey.values());
    }

    @Test
    void theBrokerWaitsAndNothingIsLostNorOutOfOrder() {
        try (TestDatabase.Cluster cluster = TestDatabase.Cluster.make();
                TestBroker broker = TestBroker.open();
                Receiver receiver = Receiver.answering(200);
                TestService service = TestService.start(cluster.start())) {
            Client client = service.client();
            Client.good(client.adopt("""
                    connections:
                      plant: {kind: mqtt, to: {address: "%s"}}
                    inlets:
                      m: {kind: mqtt, at: {connection: plant, topics: ["pumps/{house}"], receiveMaximum: 1000}, format: json, device: meta.path.house}
                    outlets:
                      r: {kind: http, to: {url: "%s"}}
                    lanes:
                      r: {inlets: [m], outlet: r, order: device, shape: {body: {n: "${data.n}"}}}
                    """.formatted(broker.address(), receiver.address())));
            Client.await(() -> state(client), "connected"::equals);
            cluster.stop();
            broker.publish(
                    "pumps/north",
                    IntStream.rangeClosed(1, 300).mapToObj(MqttTest::reading).toArray(String[]::new));
            assertThat(receiver.came()).isEmpty();

            cluster.start();

            // A delivery may be made twice under its key, if its outcome could not be written; a message comes in once.
            List<String> came = Client.await(() -> numbers(receiver), all -> all.size() >= 300);
            assertThat(came)
                    .containsExactlyElementsOf(IntStream.rangeClosed(1, 300)
                            .mapToObj(Integer::toString)
                            .toList());
            Client.await(() -> state(client), "connected"::equals);
            Client.await(() -> client.get("/api/v1/balance").path("missing").asInt(), missing -> missing == 0);
        }
    }
}
