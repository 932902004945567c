package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Conditions and shapes that go by what a device said before. */
class LastKnownTest extends ServiceTest {

    private static final String PICK =
            "has(data.wet) && device.last.rain.total.value > 3.0 && device.last.rain.total.age < duration('1h')";

    @BeforeEach
    void adopt() {
        Client.good(client.adopt(setup(PICK)));
    }

    private String setup(String pick) {
        return """
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  l:
                    inlets: [i]
                    pick: "%s"
                    outlet: o
                    shape: {body: {rain: "${device.last.rain.total.value}", at: "${device.last.rain.total.time}"}}
                """.formatted(receiver.address(), pick);
    }

    private void rained(String device, Object total) {
        String id = client.send("i", "{\"id\":\"%s\",\"rain\":{\"total\":%s}}".formatted(device, total));
        Client.await(
                () -> client.trace(id),
                trace -> Client.state(trace).equals("not taken")
                        || trace.at("/message/state").asString().equals("read"));
    }

    private JsonNode wet(String device) {
        return client.trace(client.send("i", "{\"id\":\"%s\",\"wet\":true}".formatted(device)));
    }

    @Test
    void aLaneTakesAMessageByWhatItsDeviceSaidBefore() {
        rained("much", 4);
        rained("little", 2);

        becomes(wet("much").at("/message/id").asString(), "delivered");
        JsonNode not = wet("little");

        assertThat(receiver.came().getFirst().body()).startsWith("{\"rain\":4,\"at\":\"20");
        assertThat(not.at("/lanes/0/whyNot").asString()).contains("device.last.rain.total.value");
        assertThat(receiver.came()).hasSize(1);
    }

    @Test
    void whatADeviceNeverSaidIsAReasonNotToTakeItsMessage() {
        assertThat(wet("dry").at("/lanes/0/whyNot").asString()).contains("device.last.rain");
    }

    @Test
    void whatWasSaidLastIsKnownAfterARestart() {
        rained("much", 4);
        Client.await(
                () -> client.get("/api/v1/devices/one?key=much").toString(), device -> device.contains("rain.total"));

        restart();

        becomes(wet("much").at("/message/id").asString(), "delivered");
    }

    @Test
    void aConditionThatDoesNotLookAtTheAgeIsWarnedOf() {
        JsonNode checked = Client.good(client.keyed(
                        "POST",
                        "/api/v1/setup/check",
                        setup("device.last.rain.total.value > 3.0").getBytes(),
                        "application/yaml"))
                .json();

        assertThat(checked.toString()).contains("device.last.rain.total.value may be days old; look at its age too");
    }
}
