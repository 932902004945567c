package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** A signed request that is sent again, by its sender or by somebody who overheard it, is delivered once. */
class SignedRequestTest extends ServiceTest {

    private static final String SECRET = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw";
    private static final String BODY = "{\"id\":\"cs-01\",\"t\":1}";

    private final String timestamp = Long.toString(Instant.now().getEpochSecond());

    @BeforeEach
    void adopt() {
        client.save("signed", Map.of("form", "signature", "secret", SECRET));
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: signed}, device: data.id}
                outlets:
                  r: {kind: http, to: {url: "%s"}}
                lanes:
                  r: {inlets: [s], outlet: r, shape: {body: {t: "${data.t}"}}}
                """.formatted(receiver.address())));
    }

    private String send(Client to, String id) {
        String signature = new String(
                WebhookSignature.sign(SECRET, id, timestamp, BODY.getBytes(StandardCharsets.UTF_8)),
                StandardCharsets.US_ASCII);
        return Client.good(to.call(
                        "POST",
                        "/in/s",
                        BODY.getBytes(StandardCharsets.UTF_8),
                        "Content-Type",
                        "application/json",
                        "webhook-id",
                        id,
                        "webhook-timestamp",
                        timestamp,
                        "webhook-signature",
                        "v1," + signature))
                .json()
                .path("id")
                .asString();
    }

    private void isDuplicateOf(String first, String id) {
        assertThat(client.trace(id).at("/message/state").asString()).isEqualTo("duplicate");
        assertThat(client.trace(id).at("/message/duplicateOf").asString()).isEqualTo(first);
        becomes(first, "delivered");
        assertThat(receiver.came()).hasSize(1);
        JsonNode balance = client.get("/api/v1/balance");
        assertThat(balance.path("missing").asInt()).isZero();
    }

    @Test
    void alsoWhereAnotherNodeTakesItTheSecondTime() {
        try (TestService other = service.beside()) {
            String first = send(client, "m-1");

            isDuplicateOf(first, send(other.client(), "m-1"));
            assertThat(send(other.client(), "m-2")).isNotEqualTo(first);
        }
    }

    @Test
    void alsoAfterARestart() {
        String first = send(client, "m-1");
        restart();

        isDuplicateOf(first, send(client, "m-1"));
    }
}
