package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Incidents marked, mended and reported. */
class IncidentsOnTheCommandLineTest extends AsProcess {

    private static Client client;
    private static Receiver desk;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        desk = Receiver.answering(422);
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: c}, device: data.id}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  l: {inlets: [i], outlet: o}
                """.formatted(desk.address())));
    }

    @AfterAll
    static void end() {
        desk.close();
        service.close();
    }

    @Test
    void anIncidentIsMarkedMendedAndReported() throws Exception {
        client.send("i", "{\"id\":\"d\"}");
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("letters").size() == 1);

        Ran marked = holtra("incident", "mark", "--outlet", "o", "--last", "1h", "--title", "Refused");
        assertThat(marked.out())
                .contains("Incident 1: Refused (marked)", "holtra incident mend 1 --retry", "Order: ", "Doubles: ");
        assertThat(marked.out()).containsPattern("dead +1\n");

        assertThat(holtra("incident", "mend", "1").exit()).isEqualTo(5);
        desk.answer(number -> new Receiver.Reply(200, "{}"));
        Ran mended = holtra("incident", "mend", "1", "--retry");
        assertThat(mended.out()).contains("(mended)").containsPattern("dead +1 +1 +0\n");

        assertThat(holtra("incident", "report", "1").out()).contains("<h1>Incident 1: Refused</h1>", "What was done");
        assertThat(holtra("incident", "forget", "1").exit()).isEqualTo(5);
        assertThat(holtra("incident", "mark", "--outlet", "nowhere", "--last", "1h")
                        .err())
                .contains("There is no outlet `nowhere`");
    }
}
