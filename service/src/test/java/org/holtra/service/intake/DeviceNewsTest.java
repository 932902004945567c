package org.holtra.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** What happens to devices, as messages that lanes take. */
class DeviceNewsTest extends ServiceTest {

    @BeforeEach
    void adopt() {
        adopt("meta.type == 'status'");
    }

    private void adopt(String pick) {
        Client.good(client.adopt("""
                models:
                  m: {silentAfter: 2s}
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, unknown: {model: "'m'", facts: {site: "'north'"}}}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  l:
                    inlets: [holtra]
                    pick: "%s"
                    outlet: o
                    order: device
                    shape: {body: {event: "${data.event}", device: "${device.key}", more: "${data}"}}
                """.formatted(receiver.address(), pick)));
    }

    private List<String> events() {
        return receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()))
                .map(body -> body.path("device").asString() + " "
                        + body.path("event").asString())
                .toList();
    }

    @Test
    void aDeviceAppearsFallsSilentAndIsBack() {
        client.send("i", "{\"id\":\"a\"}");
        Client.await(this::events, events -> events.equals(List.of("a appeared", "a silent")));

        client.send("i", "{\"id\":\"a\"}");

        Client.await(this::events, events -> events.size() > 2);
        assertThat(events().subList(0, 3)).containsExactly("a appeared", "a silent", "a back");
        assertThat(receiver.came().get(1).body()).contains("lastHeard");
    }

    @Test
    void changedFactsAreToldWithWhatTheyWere() {
        client.send("i", "{\"id\":\"a\"}");
        Client.await(this::events, events -> events.contains("a appeared"));

        Client.good(client.put(
                "/api/v1/devices/one?key=a", Map.of("model", "m", "facts", Map.of("site", "south", "row", 7))));
        Client.good(client.post("/api/v1/devices/bar?key=a&barred=true", Map.of()));

        Client.await(this::events, events -> events.contains("a barred"));
        JsonNode changed = receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()))
                .filter(body -> body.path("event").asString().equals("facts changed"))
                .findFirst()
                .orElseThrow();
        assertThat(changed.at("/more/facts/site/from").asString()).isEqualTo("north");
        assertThat(changed.at("/more/facts/site/to").asString()).isEqualTo("south");
        assertThat(changed.at("/more/facts/row/from").isNull()).isTrue();
        assertThat(changed.at("/more/by").asString()).isNotEmpty();
    }

    @Test
    void aDeviceThatADestinationRefusesIsToldOnce() {
        adopt("data.event == 'held at an outlet'");
        try (Receiver forbids = Receiver.answering(403)) {
            Client.good(client.adopt("""
                    inlets:
                      i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                    outlets:
                      o: {kind: http, to: {url: "%s"}}
                      strict: {kind: http, to: {url: "%s"}}
                    lanes:
                      l:
                        inlets: [holtra]
                        pick: data.event == 'held at an outlet'
                        outlet: o
                        shape: {body: {event: "${data.event}", device: "${device.key}", more: "${data}"}}
                      up: {inlets: [i], outlet: strict}
                    """.formatted(receiver.address(), forbids.address())));
            client.send("i", "{\"id\":\"a\"}");
            client.send("i", "{\"id\":\"a\"}");
            client.send("i", "{\"id\":\"b\"}");

            Client.await(
                    this::events, events -> events.containsAll(List.of("a held at an outlet", "b held at an outlet")));
        }
        assertThat(events().stream().filter("a held at an outlet"::equals)).hasSize(1);
        assertThat(receiver.came().getFirst().body()).contains("\"outlet\":\"strict\"", "403");
    }

    @Test
    void whatNoLaneTakesIsNotKept() {
        adopt("meta.type == 'alarm'");
        String id = client.send("i", "{\"id\":\"b\"}");
        becomesRead(id);
        Client.good(client.put("/api/v1/devices/one?key=b", Map.of("facts", Map.of("site", "south"))));
        adopt("data.event == 'facts changed'");
        Client.good(client.put("/api/v1/devices/one?key=b", Map.of("facts", Map.of("site", "west"))));

        Client.await(this::events, events -> events.equals(List.of("b facts changed")));
        assertThat(client.get("/api/v1/messages?inlet=holtra").path("messages").size())
                .isEqualTo(1);
    }

    private void becomesRead(String id) {
        Client.await(
                () -> client.trace(id),
                trace -> trace.at("/message/state").asString().equals("read"));
    }
}
