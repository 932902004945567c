package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.ServerSocket;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** The check of an outlet ends with the step that fails, and says what to do about it. */
class OutletCheckTest extends SharedServiceTest {

    private JsonNode check(String url) {
        return Client.good(client.post(
                        "/api/v1/outlets/o/check",
                        Map.of("fields", Map.of("kind", "http", "to", Map.of("url", url, "credential", "sender")))))
                .json();
    }

    private static List<String> steps(JsonNode checked) {
        return checked.valueStream()
                .map(step ->
                        step.path("step").asString() + " " + step.path("result").asString())
                .toList();
    }

    private static String last(JsonNode checked) {
        JsonNode step = checked.get(checked.size() - 1);
        return step.path("told").asString() + ". " + step.path("mend").asString("");
    }

    @Test
    void passesStepByStepAndSendsNothingOfAMessage() {
        Client.good(client.adopt(
                "outlets: {o: {kind: http, to: {url: \"%s\", credential: sender}}}".formatted(receiver.address())));

        JsonNode checked =
                Client.good(client.post("/api/v1/outlets/o/check", Map.of())).json();

        assertThat(steps(checked)).containsExactly("name found passed", "connected passed", "answers passed");
        assertThat(receiver.came()).hasSize(1);
        assertThat(receiver.came().getFirst().body()).isEmpty();
        assertThat(receiver.came().getFirst().header("Authorization")).isEqualTo("Bearer in-token-1");
    }

    @Test
    void tellsARefusedCredentialFromAMissingPermission() {
        receiver.answer(number -> new Receiver.Reply(number == 1 ? 401 : 403, ""));

        assertThat(last(check(receiver.address()))).startsWith("answered 401: the credential is refused. Enter");
        assertThat(last(check(receiver.address()))).startsWith("answered 403").contains("permission");
    }

    @Test
    void anAnswerThatTellsNothingOfTheCredentialIsUncertain() {
        receiver.answer(number -> new Receiver.Reply(405, ""));

        assertThat(steps(check(receiver.address()))).endsWith("answers uncertain");
    }

    @Test
    void endsWhereTheNameIsNotFoundOrNobodyListens() throws IOException {
        assertThat(steps(check("http://desk.invalid/orders"))).containsExactly("name found failed");
        int port;
        try (ServerSocket free = new ServerSocket(0)) {
            port = free.getLocalPort();
        }
        JsonNode nobody = check("http://127.0.0.1:" + port);
        assertThat(steps(nobody)).containsExactly("name found passed", "connected failed");
        assertThat(last(nobody)).startsWith("nobody listens at port " + port);
    }

    @Test
    void tellsAPortThatDoesNotSpeakTls() {
        JsonNode checked = check(receiver.address().replace("http:", "https:"));

        assertThat(steps(checked)).containsExactly("name found passed", "connected passed", "TLS failed");
        assertThat(last(checked)).contains("this port does not speak TLS").contains("Write the address without TLS");
    }

    @Test
    void whatFailedStandsInTheDiary() {
        Client.good(client.adopt("outlets: {o: {kind: http, to: {url: \"http://desk.invalid\"}}}"));
        client.post("/api/v1/outlets/o/check", Map.of());

        Client.await(
                () -> client.get("/api/v1/outlets/o/diary").toString(),
                diary -> diary.contains("check: name found failed: no host is called desk.invalid"));
    }

    @Test
    void anOutletWithErrorsIsNotLookedAt() {
        Client.Answer answer = client.post(
                "/api/v1/outlets/o/check", Map.of("fields", Map.of("kind", "http", "to", Map.of("uri", "x"))));

        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.body()).contains("The outlet has errors");
        assertThat(client.post("/api/v1/outlets/nobody/check", Map.of()).status())
                .isEqualTo(404);
    }
}
