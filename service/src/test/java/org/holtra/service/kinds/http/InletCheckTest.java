package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** The check of an inlet tells what would keep messages out, and what became of the last one. */
class InletCheckTest extends SharedServiceTest {

    private static final String SETUP = """
            inlets:
              checked: {kind: http, at: {path: checked, credential: sender}, device: data.id, unknown: {admit: %s}}
            """;

    @BeforeEach
    void adopt() {
        Client.good(client.adopt(SETUP.formatted(true)));
    }

    private JsonNode check(String name, Map<String, Object> fields) {
        return Client.good(client.post(
                        "/api/v1/inlets/" + name + "/check", fields == null ? Map.of() : Map.of("fields", fields)))
                .json();
    }

    private static List<String> steps(JsonNode checked) {
        return checked.valueStream()
                .map(step ->
                        step.path("step").asString() + " " + step.path("result").asString())
                .toList();
    }

    private static JsonNode last(JsonNode checked) {
        return checked.get(checked.size() - 1);
    }

    private JsonNode lastWhen(String result) {
        return Client.await(
                () -> last(check("checked", null)),
                step -> step.path("result").asString().equals(result));
    }

    @Test
    void tellsThatNoMessageHasComeAndHowToSendOne() {
        JsonNode checked = check("checked", null);

        assertThat(steps(checked))
                .containsExactly("path passed", "sender check passed", "open passed", "last message uncertain");
        assertThat(last(checked).path("mend").asString()).startsWith("Send one: curl ORIGIN/in/checked");
    }

    @Test
    void tellsWhatBecameOfTheLastMessage() {
        client.send("checked", "{\"id\":\"check-1\"}");
        assertThat(lastWhen("passed").path("told").asString()).contains("read, of check-1");

        String broken = client.send("checked", "{\"id\":");
        JsonNode step = lastWhen("failed");
        assertThat(step.path("told").asString()).contains("unreadable: ");
        assertThat(step.path("mend").asString()).contains(broken);
    }

    @Test
    void aPathOfAnotherInletAndACredentialThatIsNotThereFail() {
        JsonNode checked =
                check("fresh", Map.of("kind", "http", "at", Map.of("path", "checked", "credential", "sender")));

        assertThat(steps(checked)).containsExactly("path failed", "sender check passed");
        assertThat(checked.get(0).path("told").asString()).isEqualTo("/in/checked is that of inlet checked");
    }

    @Test
    void aClosedInletIsToldOf() {
        Client.good(client.adopt(SETUP.formatted(true).replace("kind: http,", "kind: http, state: closed,")));

        assertThat(steps(check("checked", null))).contains("open uncertain");
    }

    @Test
    void anInletThatIsNotThereIsNotFound() {
        assertThat(client.post("/api/v1/inlets/nobody/check", Map.of()).status())
                .isEqualTo(404);
    }
}
