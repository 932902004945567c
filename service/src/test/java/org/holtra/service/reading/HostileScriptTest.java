package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class HostileScriptTest extends ServiceTest {

    private Client.Answer post(String device) {
        return client.call(
                "POST",
                "/in/s",
                "{\"id\":\"%s\",\"p\":\"0102\"}".formatted(device).getBytes(),
                "Authorization",
                "Bearer in-token-1",
                "Content-Type",
                "application/json");
    }

    @Test
    void aScriptThatSpoilsItsAnswersCostsItsOwnMessagesAndNoOthers() {
        Client.good(client.adopt("""
                models:
                  evil:
                    codec:
                      script: |
                        Array.prototype.toJSON = function () { return undefined; };
                        Object.prototype.toJSON = function () { throw 1; };
                        function decodeUplink(input) { return { data: { v: input.bytes } }; }
                  good:
                    codec:
                      script: "function decodeUplink(input) { return { data: { v: input.bytes[0] } }; }"
                inlets:
                  s:
                    kind: http
                    at: {path: s, credential: sender, atOnce: 2}
                    device: data.id
                    payload: {bytes: data.p, encoding: hex}
                    unknown: {model: "data.id.startsWith('evil') ? 'evil' : 'good'"}
                """));

        List<String> evil = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            Client.Answer answer = post("evil-" + i);
            assertThat(answer.status()).as(answer.body()).isEqualTo(202);
            evil.add(answer.json().path("id").asString());
        }
        Client.Answer good = post("good-1");

        assertThat(good.status()).isEqualTo(202);
        client.traceWhen(
                good.json().path("id").asString(),
                trace -> trace.at("/message/state").asString().equals("read"));
        evil.forEach(id -> client.traceWhen(
                id, trace -> trace.at("/message/state").asString().equals("unreadable")));
        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
    }
}
