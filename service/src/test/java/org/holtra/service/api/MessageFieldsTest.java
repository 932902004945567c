package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class MessageFieldsTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();

    @BeforeAll
    static void setUp() {
        CLIENT.save("mf", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt("""
                models:
                  mast: {fields: {t: {unit: Cel}}}
                inlets:
                  mf: {kind: http, at: {path: mf, credential: mf}, device: data.id, unknown: {admit: true, model: "'mast'"}}
                """));
    }

    private static JsonNode fields(Object... ids) {
        return Client.good(CLIENT.post("/api/v1/messages/fields", Map.of("ids", List.of(ids))))
                .json();
    }

    @Test
    void fieldsAreToldWithTheirUnitsForAsManyMessagesAsAreThere() {
        String first = CLIENT.send("mf", "{\"id\":\"mf-1\",\"t\":2.5,\"at\":{\"row\":7}}");
        String second = CLIENT.send("mf", "{\"id\":\"mf-2\",\"t\":3}");

        JsonNode told = fields(first, second);

        assertThat(told).hasSize(2);
        JsonNode one = told.valueStream()
                .filter(read -> read.path("id").asString().equals(first))
                .findFirst()
                .orElseThrow();
        assertThat(one.path("fields").toString())
                .isEqualTo("[{\"name\":\"id\",\"value\":\"mf-1\",\"unit\":null},"
                        + "{\"name\":\"t\",\"value\":2.5,\"unit\":\"Cel\"},"
                        + "{\"name\":\"at.row\",\"value\":7,\"unit\":null}]");
    }

    @Test
    void whatCannotBeReadHasNone() {
        assertThat(fields(CLIENT.send("mf", "nonsense")).at("/0/fields")).isEmpty();
    }

    @Test
    void tooManyAtOnceOrNoIdsAreRefused() {
        Answer many = CLIENT.post(
                "/api/v1/messages/fields",
                Map.of("ids", Stream.generate(() -> "x").limit(201).toList()));
        Answer none = CLIENT.post("/api/v1/messages/fields", Map.of("ids", List.of("nonsense")));

        assertThat(many.status()).isEqualTo(400);
        assertThat(many.json().path("detail").asString()).contains("At most 200");
        assertThat(none.status()).isEqualTo(400);
        assertThat(none.json().path("detail").asString()).contains("`nonsense` is not the id of a message");
    }
}
