package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Fields are made of a device's channels: those of its model, or its own. */
class ChannelsTest extends SharedServiceTest {

    private static final String KEY = "?key=m1";

    private void adopt() {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, unknown: {model: "'meter'"}}
                models:
                  meter:
                    channels:
                      - {from: ch1, field: power, point: clamp-1, factor: 0.001, unit: kW, min: 0, max: 50}
                      - {from: ch2, field: power, point: clamp-2, factor: 0.001, unit: kW}
                outlets:
                  o: {kind: http, to: {url: "%s/"}}
                lanes:
                  l:
                    inlets: [i]
                    outlet: o
                    per: point
                    shape: {body: {point: "${device.point.name}", kw: "${data.power}"}}
                """.formatted(receiver.address())));
    }

    private List<String> bodies(int count) {
        Client.await(() -> receiver.came().size(), size -> size >= count);
        return receiver.came().stream().map(came -> came.body()).toList();
    }

    @Test
    void theChannelsOfAModelAreFieldsOfItsPoints() {
        adopt();
        client.send("i", "{\"id\":\"m1\",\"ch1\":1500,\"ch2\":\"250\"}");
        assertThat(bodies(2))
                .anySatisfy(body -> assertThat(body).contains("clamp-1", "1.5"))
                .anySatisfy(body -> assertThat(body).contains("clamp-2", "0.25"));
        JsonNode values = client.get("/api/v1/devices/one" + KEY).path("values");
        assertThat(values.at("/clamp_1.power/value").asDouble()).isEqualTo(1.5);
    }

    @Test
    void aDevicesOwnChannelsStandInPlaceOfItsModels() {
        adopt();
        client.send("i", "{\"id\":\"m1\",\"ch1\":1500,\"ch2\":250}");
        bodies(2);
        Map<String, Object> swapped =
                Map.of("from", "ch2", "field", "power", "point", "clamp-1", "factor", 0.01, "unit", "kW");
        Client.Answer wired =
                client.post("/api/v1/devices/channels", Map.of("devices", List.of("m1"), "channels", List.of(swapped)));
        assertThat(Client.good(wired).json().path("changed").asInt()).isEqualTo(1);

        client.send("i", "{\"id\":\"m1\",\"ch1\":1500,\"ch2\":250}");

        assertThat(bodies(3)).hasSize(3);
        assertThat(bodies(3).get(2)).contains("clamp-1", "2.5");
        JsonNode sent = client.get("/api/v1/devices/channels" + KEY);
        assertThat(sent.path("ownChannels").asBoolean()).isTrue();
        assertThat(sent.at("/places/ch1").asDouble()).isEqualTo(1500);
        assertThat(sent.path("places").has("clamp_1.power")).isFalse();

        // What is said of a device without a word of channels leaves them as they are.
        Client.good(client.put("/api/v1/devices/one" + KEY, Map.of("model", "meter", "facts", Map.of("row", 3))));
        assertThat(client.get("/api/v1/devices/one" + KEY).path("channels")).hasSize(1);
        Client.good(client.post("/api/v1/devices/channels", Map.of("devices", List.of("m1"), "channels", List.of())));
        assertThat(client.get("/api/v1/devices/channels" + KEY)
                        .path("ownChannels")
                        .asBoolean())
                .isFalse();
    }

    @Test
    void aPreviewShowsTheLastMessageAndChangesNothing() {
        adopt();
        client.send("i", "{\"id\":\"m1\",\"ch1\":1500,\"state\":\"on\"}");
        bodies(1);
        List<Map<String, Object>> wanted = List.of(
                Map.of("from", "ch1", "field", "power", "factor", 1, "unit", "kW", "min", 0, "max", 50),
                Map.of("from", "state", "field", "level", "unit", "kW"),
                Map.of("from", "ch9", "field", "other"));
        JsonNode made = Client.good(client.post("/api/v1/devices/channels/preview" + KEY, wanted))
                .json();
        assertThat(made.at("/0/value").asDouble()).isEqualTo(1500);
        assertThat(made.at("/0/note").asString()).contains("outside of its range");
        assertThat(made.at("/1/note").asString()).contains("wants a number");
        assertThat(made.at("/2/note").asString()).contains("nothing at ch9");
        assertThat(client.get("/api/v1/devices/one" + KEY).path("channels")).isEmpty();
    }

    @Test
    void wrongChannelsAreRefusedWithTheirNumber() {
        adopt();
        client.send("i", "{\"id\":\"m1\",\"ch1\":1}");
        Client.Answer answer = client.post(
                "/api/v1/devices/channels",
                Map.of(
                        "devices",
                        List.of("m1"),
                        "channels",
                        List.of(
                                Map.of("from", "ch1", "field", "a"),
                                Map.of("from", "ch1", "field", "b", "unit", "kWatt"))));
        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.body()).contains("Channel 2", "UCUM");
        assertThat(client.post("/api/v1/devices/channels", Map.of("devices", List.of("nobody"), "channels", List.of()))
                        .status())
                .isEqualTo(404);
    }
}
