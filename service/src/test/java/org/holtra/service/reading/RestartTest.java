package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

/** What is learnt from messages outlives the process. */
class RestartTest {

    private static String uplink(Client client, String id, int number) {
        return client.send("uplinks", "{\"id\":\"%s\",\"n\":%d,\"t\":%d}".formatted(id, number, number));
    }

    @Test
    void copiesAreKnownAndWhatWasNotWrittenIsTakenUpFromTheJournal() {
        TestDatabase database = TestDatabase.fresh();
        String first;
        TestService started = TestService.start(database);
        try (TestService service = started) {
            Client client = service.client();
            client.save("c", Map.of("form", "bearer", "token", "token-token"));
            Client.good(client.adopt("""
                    inlets:
                      uplinks:
                        kind: http
                        at: {path: uplinks, credential: c}
                        device: data.id
                        sequence: data.n
                        duplicates: {same: data.n, within: 1h}
                    """));
            first = uplink(client, "a", 1);
            uplink(client, "a", 3);
            uplink(client, "b", 1);
            Client.await(
                    () -> client.get("/api/v1/devices/one?key=b"),
                    one -> one.path("messages").asInt() == 1);
        }
        // As if the process had been killed before it wrote down what it had heard of one device.
        database.execute("update device set life = null where key = 'a'");

        try (TestService service = started.again()) {
            Client client = service.client();

            assertThat(client.get("/api/v1/devices/one?key=a").path("messages").asInt())
                    .isEqualTo(2);
            assertThat(client.get("/api/v1/devices/one?key=a").path("missing").asInt())
                    .isEqualTo(1);
            assertThat(client.get("/api/v1/devices/one?key=a")
                            .at("/values/t/value")
                            .asInt())
                    .isEqualTo(3);
            assertThat(client.get("/api/v1/devices/one?key=b").path("messages").asInt())
                    .isEqualTo(1);
            assertThat(client.trace(uplink(client, "a", 1))
                            .at("/message/duplicateOf")
                            .asString())
                    .isEqualTo(first);
        }
    }
}
