package org.holtra.service.workbench;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** An instance with nothing in it gets a sample, and loses it again in one act. */
class SampleSetupTest extends ServiceTest {

    private int devices() {
        return client.get("/api/v1/devices").path("total").asInt();
    }

    private void remove() {
        Client.good(client.keyed("DELETE", "/api/v1/sample", null, "application/json"));
    }

    @Test
    void theSampleFillsAnEmptyInstanceAndIsRemovedInOneAct() {
        assertThat(client.get("/api/v1/sample").path("parts")).isEmpty();
        JsonNode loaded = Client.good(client.post("/api/v1/sample", Map.of())).json();
        assertThat(loaded.path("parts").toString()).contains("inlets/sample-stations", "lanes/sample-cold-readings");

        Client.await(this::devices, count -> count == 6);
        JsonNode messages = client.get("/api/v1/messages?inlet=sample-stations").path("messages");
        assertThat(messages.path(0).path("simulated").asBoolean()).isTrue();
        assertThat(messages.path(0).path("state").asString()).isEqualTo("read");

        remove();
        assertThat(client.get("/api/v1/sample").path("parts")).isEmpty();
        assertThat(devices()).isZero();
        assertThat(client.get("/api/v1/inlets").findValuesAsString("name")).doesNotContain("sample-stations");
    }

    @Test
    void whatAPersonHasMadeStaysWhenItIsLoadedAndRemoved() {
        Client.good(client.adopt("""
                # mine
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}}
                """));
        client.post("/api/v1/sample", Map.of());
        remove();
        assertThat(client.get("/api/v1/setup/parts/inlets/i").path("text").asString())
                .contains("path: i");
    }

    @Test
    void itIsNotRemovedFromUnderALaneOfOnesOwn() {
        client.post("/api/v1/sample", Map.of());
        Client.good(client.put(
                "/api/v1/setup/parts/lanes/mine",
                Map.of(
                        "content",
                        Map.of("inlets", new String[] {"sample-stations"}, "outlet", "sample-destination"),
                        "basedOn",
                        "")));
        Client.Answer answer = client.keyed("DELETE", "/api/v1/sample", null, "application/json");
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body()).contains("lanes.mine");
    }

    @Test
    void coldReadingsReachTheMadeUpDestination() {
        client.post("/api/v1/sample", Map.of());
        JsonNode messages = Client.await(
                () -> client.get("/api/v1/messages?inlet=sample-stations").path("messages"), list -> list.size() >= 6);
        // Whatever the hour, the lane says of each message why it took it or not.
        JsonNode trace = client.trace(messages.path(0).path("id").asString());
        assertThat(trace.toString()).contains("sample-cold-readings");
    }
}
