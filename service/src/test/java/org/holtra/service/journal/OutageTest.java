package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

class OutageTest {

    @Test
    void whileTheDatabaseIsAwaySendersAreToldToComeAgainAndAfterwardsAllGoesOn() {
        try (TestDatabase.Cluster cluster = TestDatabase.Cluster.make();
                Receiver receiver = Receiver.answering(200);
                TestService service = TestService.start(cluster.start().newDatabase())) {
            Client client = service.client();
            client.save("o", Map.of("form", "bearer", "token", "token-token"));
            Client.good(client.adopt("""
                    inlets:
                      o: {kind: http, at: {path: o, credential: o}, device: data.id}
                    outlets:
                      o: {kind: http, to: {url: "%s"}}
                    lanes:
                      o: {inlets: [o], outlet: o}
                    """.formatted(receiver.address())));
            assertThat(post(client, "known").status()).isEqualTo(202);

            cluster.stop();
            Answer known = post(client, "known");
            Answer stranger = post(client, "stranger");
            cluster.start();

            assertThat(known.status()).isEqualTo(503);
            assertThat(known.header("Retry-After")).isNotBlank();
            assertThat(known.json().path("detail").asString()).contains("Nothing was kept");
            assertThat(stranger.status()).isEqualTo(503);
            Answer again = Client.await(() -> post(client, "known"), answer -> answer.status() == 202);
            client.traceWhen(
                    again.json().path("id").asString(),
                    trace -> Client.state(trace).equals("delivered"));
            assertThat(client.get("/api/balance").path("missing").asInt()).isZero();
        }
    }

    private static Answer post(Client client, String device) {
        return client.call(
                "POST", "/in/o", ("{\"id\":\"" + device + "\"}").getBytes(), "Authorization", "Bearer token-token");
    }
}
