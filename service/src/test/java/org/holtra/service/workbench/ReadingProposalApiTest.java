package org.holtra.service.workbench;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** An inlet's settings are proposed by the last that came, as it came. */
class ReadingProposalApiTest extends ServiceTest {

    private static final String METERS =
            "{\"box\":\"b-1\",\"meters\":[{\"serial\":\"m-1\",\"ch1\":1},{\"serial\":\"m-2\",\"ch1\":2}]}";

    private void adopt(String more) {
        Client.good(client.adopt("inlets: {i: {kind: http, at: {path: i, credential: sender}" + more + "}}"));
    }

    private Client.Answer proposal(String query) {
        return client.keyed("GET", "/api/v1/inlets/i/proposal" + query, null, "application/json");
    }

    @Test
    void beforeAMessageThereIsNothingToPropose() {
        adopt("");
        Client.Answer answer = proposal("");
        assertThat(answer.status()).isEqualTo(404);
        assertThat(answer.body()).contains("Send a message first");
        assertThat(client.keyed("GET", "/api/v1/inlets/nobody/proposal", null, "application/json")
                        .status())
                .isEqualTo(404);
    }

    @Test
    void theLastMessageProposesAndAPersonMaySayThatItIsOne() {
        adopt("");
        String id = client.send("i", METERS);
        JsonNode found = Client.good(proposal("")).json();
        assertThat(found.path("message").asString()).isEqualTo(id);
        assertThat(found.at("/proposal/parts/0/expression").asString()).isEqualTo("data.meters");
        assertThat(found.at("/proposal/device/0/expression").asString()).isEqualTo("data.serial");
        JsonNode one = Client.good(proposal("?one=true")).json();
        assertThat(one.at("/proposal/parts")).isEmpty();
    }

    @Test
    void onceArrivalsAreTakenApartTheWholeIsLookedAtStill() {
        adopt(", parts: data.meters, device: data.serial");
        String whole = client.send("i", METERS);
        JsonNode found = Client.good(proposal("")).json();
        assertThat(found.path("message").asString()).isEqualTo(whole);
        assertThat(found.at("/proposal/parts/0/expression").asString()).isEqualTo("data.meters");
    }

    @Test
    void whatCannotBeReadYetCanBeProposedFor() {
        Client.good(
                client.adopt(
                        "inlets: {i: {kind: http, at: {path: i, credential: sender, contentTypes: [application/json]}, format: json}}"));
        client.send("i", "sn=4711&ts=1776136800&v=1");
        JsonNode found = Client.good(proposal("")).json();
        assertThat(found.at("/proposal/format").asString()).isEqualTo("form");
        assertThat(found.at("/proposal/device/0/expression").asString()).isEqualTo("data.sn");
    }
}
