package org.holtra.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** What an inlet ignores is answered and counted, and not kept. */
class IgnoredMessagesTest extends ServiceTest {

    private void adopt(String reading) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, %s}
                outlets:
                  o: {kind: http, to: {url: "%s/"}}
                lanes:
                  l: {inlets: [i], outlet: o, shape: {body: {v: "${data.v}"}}}
                """.formatted(reading, receiver.address())));
    }

    private JsonNode intake() {
        return Client.await(
                () -> client.get("/api/v1/balance?from=2026-01-01T00:00:00Z&to="
                                + Instant.now().plus(Duration.ofHours(1)))
                        .path("intake"),
                intake -> intake.path("unacknowledged").asInt() == 0);
    }

    @Test
    void anIgnoredMessageIsCountedAndLeavesNoTrace() {
        adopt("ignore: \"data.kind == 'keepalive'\"");
        Client.Answer answer = client.keyed(
                "POST",
                "/api/v1/inlets/i/messages",
                "{\"id\":\"d\",\"kind\":\"keepalive\"}".getBytes(StandardCharsets.UTF_8),
                "application/json");
        client.send("i", "{\"id\":\"d\",\"v\":7}");

        assertThat(answer.status()).isEqualTo(202);
        assertThat(answer.json().path("ignored").asBoolean()).isTrue();
        String id = answer.json().path("id").asString();
        assertThat(client.keyed("GET", "/api/v1/messages/" + id, null, "application/json")
                        .status())
                .isEqualTo(404);
        JsonNode intake = intake();
        assertThat(intake.path("acknowledged").asInt()).isEqualTo(2);
        assertThat(intake.path("ignored").asInt()).isEqualTo(1);
        assertThat(intake.path("read").asInt()).isEqualTo(1);
        assertThat(intake.path("missing").asInt()).isZero();
        assertThat(client.get("/api/v1/balance/differences?from=2026-01-01T00:00:00Z&to="
                        + Instant.now().plus(Duration.ofHours(1))))
                .isEmpty();
        assertThat(client.get("/api/v1/inlets").path(0).path("ignored").asInt()).isEqualTo(1);
    }

    @Test
    void contentThatCannotBeReadIsNeverIgnored() {
        adopt("ignore: true");
        client.send("i", "not JSON");
        assertThat(intake().path("unreadable").asInt()).isEqualTo(1);
        assertThat(intake().path("ignored").asInt()).isZero();
    }

    @Test
    void aMissingFieldIsNoReasonToIgnoreAMessage() {
        adopt("ignore: \"data.kind == 'keepalive'\"");
        client.send("i", "{\"id\":\"d\",\"v\":1}");
        assertThat(intake().path("read").asInt()).isEqualTo(1);
    }

    @Test
    void ofAnArrivalWithPartsTheIgnoredOnesAreLeftOutAndTheWholeSaysSo() {
        adopt("ignore: data.v == 0, parts: data.list");
        String whole = client.send("i", """
                {"list":[{"id":"a","v":0},{"id":"b","v":1},{"id":"c","v":0}]}""");

        JsonNode trace = client.trace(whole);
        assertThat(trace.at("/message/reason").asString()).isEqualTo("taken apart into 1 message; 2 more ignored");
        assertThat(trace.path("parts")).hasSize(1);
        JsonNode intake = intake();
        assertThat(intake.path("parts").asInt()).isEqualTo(1);
        assertThat(intake.path("missing").asInt()).isZero();
    }
}
