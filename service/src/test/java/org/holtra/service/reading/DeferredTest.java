package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Messages whose codec cannot be run wait to be read. */
class DeferredTest extends ServiceTest {

    private void adopt(String body) {
        Client.good(client.adopt("""
                inlets:
                  u:
                    kind: http
                    at: {path: u, credential: sender}
                    device: data.id
                    payload: {bytes: data.payload, encoding: hex, codec: {script: "function decodeUplink(input) { %s }"}}
                outlets:
                  r: {kind: http, to: {url: "%s"}}
                lanes:
                  r: {inlets: [u], outlet: r, order: device, shape: {body: {n: "${data.n}"}}}
                lookouts:
                  quiet: {inlets: [u], silent: 1h}
                """.formatted(body, receiver.address())));
    }

    @Test
    void areNotThoseThatComeAfterSomebodyLookedBackAtOnesTheScriptHangsOn() {
        adopt("return { data: { n: input.bytes[0] } };");
        String first = send(1);
        becomesNow(first, "read");
        adopt("if (input.bytes[0] == 1) { while (true) {} } return { data: { n: input.bytes[0] } };");

        for (int look = 0; look < 4; look++) {
            assertThat(client.trace(first).at("/message/state").asString()).isEqualTo("read");
        }

        assertThat(client.trace(send(2)).at("/message/state").asString()).isEqualTo("read");
    }

    private String send(int number) {
        return client.send("u", "{\"id\":\"d\",\"payload\":\"%02x\"}".formatted(number));
    }

    private JsonNode becomesNow(String id, String state) {
        return Client.await(
                () -> client.trace(id),
                trace -> trace.at("/message/state").asString().equals(state),
                Duration.ofMinutes(10));
    }

    @Test
    void waitAreToldOfCountForSilenceAndGoOnInOrderOnceTheCodecIsMended() {
        adopt("while (true) {}");
        List<String> ids = new ArrayList<>();
        for (int number = 0; number < 5; number++) {
            ids.add(send(number));
        }

        ids.forEach(id -> becomesNow(id, "deferred"));
        JsonNode troubles = Client.await(
                () -> client.get("/api/v1/status").path("troubles"),
                all -> all.toString().contains("5 messages wait to be read")
                        && all.toString().contains("used more than 500 ms of processor time"),
                Duration.ofMinutes(10));
        assertThat(troubles).hasSize(1);
        assertThat(client.get("/api/v1/devices/one?key=d").path("state").asString())
                .isEqualTo("live");
        assertThat(client.get("/api/v1/messages?state=deferred").path("messages"))
                .hasSize(5);
        JsonNode balance = client.get("/api/v1/balance");
        assertThat(balance.at("/intake/deferred").asInt()).isEqualTo(5);
        assertThat(balance.path("missing").asInt()).isZero();

        adopt("return { data: { n: input.bytes[0] } };");

        ids.forEach(id -> becomesNow(id, "read"));
        Client.await(() -> receiver.came().size(), size -> size == 5);
        assertThat(receiver.came().stream()
                        .map(one -> Client.JSON.readTree(one.body()).path("n").asInt()))
                .containsExactly(0, 1, 2, 3, 4);
        assertThat(client.get("/api/v1/devices/one?key=d").path("messages").asInt())
                .isEqualTo(5);
        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
    }

    @Test
    void waitAcrossARestart() {
        adopt("while (true) {}");
        String first = send(1);
        becomesNow(first, "deferred");

        restart();
        String second = send(2);
        adopt("return { data: { n: input.bytes[0] } };");

        becomesNow(first, "read");
        becomesNow(second, "read");
        Client.await(() -> receiver.came().size(), size -> size == 2);
        assertThat(receiver.came().stream()
                        .map(one -> Client.JSON.readTree(one.body()).path("n").asInt()))
                .containsExactly(1, 2);
    }

    @Test
    void ofTwoNodesAreReadOnceAndInOrderAndByTheOtherWhenOneEnds() {
        adopt("while (true) {}");
        List<String> ids = new ArrayList<>();
        try (TestService other = service.beside()) {
            Client second = other.client();
            for (int number = 0; number < 6; number++) {
                Client one = number % 2 == 0 ? client : second;
                ids.add(one.send("u", "{\"id\":\"d\",\"payload\":\"%02x\"}".formatted(number)));
            }
            ids.forEach(id -> becomesNow(id, "deferred"));
            assertThat(second.get("/api/v1/balance").at("/intake/deferred").asInt())
                    .isEqualTo(6);
        }
        adopt("return { data: { n: input.bytes[0] } };");

        ids.forEach(id -> becomesNow(id, "read"));
        Client.await(() -> receiver.came().size(), size -> size == 6);
        assertThat(receiver.came().stream()
                        .map(one -> Client.JSON.readTree(one.body()).path("n").asInt()))
                .containsExactly(0, 1, 2, 3, 4, 5);
        assertThat(client.get("/api/v1/devices/one?key=d").path("messages").asInt())
                .isEqualTo(6);
        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
    }
}
