package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** What is wrong with what is stored never keeps the service from starting. */
class SurvivedStartTest extends ServiceTest {

    private String setup() {
        return """
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  s: {inlets: [s], outlet: s}
                """.formatted(receiver.address());
    }

    private Client.Answer post() {
        return client.call("POST", "/in/s", "{\"id\":\"a\"}".getBytes(), "Authorization", "Bearer in-token-1");
    }

    @Test
    void aRevisionThatNoLongerCompilesTakesNothingInAndSaysWhyUntilAnotherIsAdopted() {
        Client.good(client.adopt(setup()));
        service.database().execute("update setup_revision set yaml = replace(yaml, 'outlet: s}', 'outlet: gone}')");

        restart();

        Client.Answer refused = post();
        assertThat(refused.status()).isEqualTo(503);
        assertThat(refused.json().path("detail").asString()).contains("cannot be compiled by this version");
        JsonNode trouble =
                Client.await(() -> client.get("/api/v1/status").path("troubles"), troubles -> troubles.size() == 1);
        assertThat(trouble.at("/0/text").asString())
                .startsWith("setup revision 1 cannot be compiled by this version")
                .contains("lanes.s");

        Client.good(client.adopt(setup()));

        assertThat(client.get("/api/v1/status").path("setupRevision").asInt()).isEqualTo(2);
        assertThat(post().status()).isEqualTo(202);
        Client.await(() -> receiver.came().size(), size -> size == 1);
        Client.await(() -> client.get("/api/v1/status").path("troubles"), JsonNode::isEmpty);
    }

    @Test
    void tablesOfComingDaysThatCannotBeMadeKeepNothingFromStarting() {
        Client.good(client.adopt(setup()));
        LocalDate day = LocalDate.now(ZoneOffset.UTC).plusDays(3);
        String name = "message_" + day.toString().replace("-", "");
        service.database().execute("drop table " + name);
        service.database()
                .execute("create table message_in_the_way partition of message for values from ('%s') to ('%s')"
                        .formatted(day, day.plusDays(400)));

        restart();

        assertThat(post().status()).isEqualTo(202);
        Client.await(() -> receiver.came().size(), size -> size == 1);
    }

    @Test
    void notificationsThatANodeDoesNotUnderstandDoNotMakeItDeaf() {
        Client.good(client.adopt(setup()));
        try (var other = service.beside()) {
            for (String told : new String[] {"x FUTURE y", "x", "", "x SETUP", "x DEVICE \u00e4"}) {
                service.database().texts("select pg_notify('holtra', '" + told + "')");
            }

            Client.good(other.client().adopt(setup().replace("path: s,", "path: t,")));

            Client.await(
                    () -> client.call("POST", "/in/t", "{}".getBytes(), "Authorization", "Bearer in-token-1")
                            .status(),
                    status -> status == 202);
        }
        assertThat(client.put("/api/v1/devices/one?key=a", Map.of("facts", Map.of("n", 1)))
                        .status())
                .isEqualTo(200);
    }
}
