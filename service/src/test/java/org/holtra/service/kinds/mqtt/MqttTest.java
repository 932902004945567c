package org.holtra.service.kinds.mqtt;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestBroker;
import org.junit.jupiter.api.AfterEach;
import tools.jackson.databind.JsonNode;

/** A service and a real broker. */
abstract class MqttTest extends ServiceTest {

    protected TestBroker broker;

    @AfterEach
    void endBroker() {
        if (broker != null) {
            broker.close();
        }
    }

    /**
     * A setup with a connection {@code plant}, an inlet {@code m} and a lane {@code r} from there to a receiver.
     *
     * @param to more of the connection's settings, after a comma
     * @param at the inlet's settings beside its connection
     * @param reading more of the inlet
     */
    protected String setup(String to, String at, String reading) {
        return """
                connections:
                  plant: {kind: mqtt, to: {address: "%s"%s}}
                inlets:
                  m: {kind: mqtt, at: {connection: plant, %s}, %s}
                outlets:
                  r: {kind: http, to: {url: "%s"}}
                lanes:
                  r: {inlets: [m], outlet: r, order: device, shape: {body: {n: "${data.n}", topic: "${meta.topic}"}}}
                """.formatted(broker.address(), to, at, reading, receiver.address());
    }

    protected void adopt(String at) {
        Client.good(client.adopt(setup("", at, "format: json, device: meta.path.house")));
    }

    protected JsonNode inlet() {
        return client.get("/api/v1/inlets").get(0);
    }

    protected JsonNode connection() {
        return client.get("/api/v1/connections").get(0);
    }

    protected void inletSays(String words) {
        try {
            Client.await(() -> inlet().at("/connection/reason").asString(""), reason -> reason.contains(words));
        } catch (AssertionError e) {
            throw new AssertionError(e.getMessage() + "; its diary: " + client.get("/api/v1/inlets/m/diary"), e);
        }
    }

    protected void connectionSays(String words) {
        Client.await(() -> connection().at("/status/reason").asString(""), reason -> reason.contains(words));
    }

    /** Waits until so many numbers were delivered; gives them in their order. */
    protected java.util.List<String> came(int number) {
        return Client.await(
                () -> receiver.came().stream()
                        .map(one -> Client.JSON.readTree(one.body()).path("n").asString())
                        .toList(),
                all -> all.size() >= number);
    }

    protected static String reading(int number) {
        return "{\"n\":\"" + number + "\"}";
    }

    protected void saveLogin(String user, String password) {
        client.save("plant-login", Map.of("form", "login", "user", user, "password", password));
    }

    protected void balanced() {
        Client.await(() -> client.get("/api/v1/balance").path("missing").asInt(), missing -> missing == 0);
    }
}
