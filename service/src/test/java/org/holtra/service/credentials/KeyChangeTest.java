package org.holtra.service.credentials;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

/** The key that credentials and tokens are sealed with is changed: a line in front of it, a start, and then without the old line. */
class KeyChangeTest extends ServiceTest {

    private void restartWithKeys(List<String> keys) throws IOException {
        service.close();
        Files.write(service.keyFile(), keys);
        service = service.again();
        client = service.client();
    }

    private void sendThrough() {
        for (String inlet : List.of("own", "exchanged")) {
            becomes(client.send(inlet, "{}"), "delivered");
        }
    }

    @Test
    void whatWasSealedWithTheOldKeyIsSealedWithTheNewOneAtTheStart() throws IOException {
        byte[] bytes = new byte[32];
        new Random(5).nextBytes(bytes);
        String fresh = Base64.getEncoder().encodeToString(bytes);
        try (Receiver tokens = Receiver.answering(200)) {
            String answer = "{\"access_token\":\"token-%d\",\"token_type\":\"Bearer\",\"expires_in\":3600}";
            tokens.answer(
                    number -> new Receiver.Reply(200, answer.formatted(number), "Content-Type", "application/json"));
            client.save("own", Map.of("form", "bearer", "token", "own-token"));
            client.save(
                    "exchanged",
                    Map.of(
                            "form", "client",
                            "tokenUrl", tokens.address() + "/token",
                            "clientId", "a",
                            "clientSecret", "secret"));
            Client.good(client.adopt("""
                    inlets:
                      own: {kind: http, at: {path: own, credential: sender}}
                      exchanged: {kind: http, at: {path: exchanged, credential: sender}}
                    outlets:
                      own: {kind: http, to: {url: "%1$s/own", credential: own}}
                      exchanged: {kind: http, to: {url: "%1$s/exchanged", credential: exchanged}}
                    lanes:
                      own: {inlets: [own], outlet: own}
                      exchanged: {inlets: [exchanged], outlet: exchanged}
                    """.formatted(receiver.address())));
            sendThrough();
            String old = Files.readString(service.keyFile()).strip();

            restartWithKeys(List.of(fresh, old));
            sendThrough();
            restartWithKeys(List.of(fresh));
            sendThrough();

            assertThat(tokens.came()).hasSize(1);
        }
        assertThat(receiver.came())
                .extracting(came -> came.target() + " " + came.header("Authorization"))
                .hasSize(6)
                .containsOnly("/own Bearer own-token", "/exchanged Bearer token-1");
    }
}
