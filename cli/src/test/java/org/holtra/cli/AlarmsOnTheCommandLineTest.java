package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Lookouts rehearsed, and what people do about alarms. */
class AlarmsOnTheCommandLineTest extends AsProcess {

    private static final String SETUP = """
            inlets:
              i: {kind: http, at: {path: i, credential: c}, device: data.id, time: data.at}
            lookouts:
              frost: {inlets: [i], value: data.wet, below: {on: 0, off: %s}}
            """;

    private static Client client;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt(SETUP.formatted("1")));
    }

    @AfterAll
    static void end() {
        service.close();
    }

    private static void send(int minute, double wet) {
        client.send("i", "{\"id\":\"cs-1\",\"at\":\"2026-04-12T03:%02d:00Z\",\"wet\":%s}".formatted(minute, wet));
    }

    @Test
    void anAlarmIsListedAcknowledgedAndShelvedAndItsLookoutRehearsed(@TempDir Path folder) throws Exception {
        assertThat(holtra("alarm", "list").out()).contains("No alarm is raised.");
        send(0, -0.5);
        send(5, 0.4);
        send(10, -1.25);
        Client.await(
                () -> client.get("/api/v1/alarms").path("alarms"),
                all -> all.size() == 1 && all.get(0).path("extreme").asDouble() == -1.25);

        assertThat(holtra("alarm", "list").out()).containsPattern("1 +open +frost +cs-1 .*-1.25");
        assertThat(holtra("alarm", "ack", "1", "--text", "fans are on").out())
                .contains("alarm 1 of frost: cs-1, acknowledged", "acknowledged: fans are on");
        assertThat(holtra("alarm", "shelve", "1", "--for", "2h").out()).contains("shelved until");
        assertThat(holtra("alarm", "shelve", "1", "--for", "ever").exit()).isEqualTo(5);
        assertThat(holtra("alarm", "show", "9").err()).contains("There is no alarm `9`");

        assertThat(holtra("lookout", "list").out()).contains("data.wet at or below 0, until it is back at 1");
        assertThat(holtra("lookout", "rehearse", "frost").out())
                .contains("looked at 3 messages of 1 it watches", "raised 1 alarm:");
        Path file = Files.writeString(folder.resolve("setup.yaml"), SETUP.formatted("0.3"));
        assertThat(holtra("lookout", "rehearse", "frost", "--setup", file.toString())
                        .out())
                .contains("raised 2 alarms:");
    }
}
