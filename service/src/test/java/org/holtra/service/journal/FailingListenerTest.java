package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

class FailingListenerTest {

    /** Is told of what was committed, and fails each time. */
    static final class Failing implements JournalListener {

        @Override
        public void kept(StoredMessage message) {
            throw new IllegalStateException("for the test");
        }

        @Override
        public void settled(Settlement settlement) {
            throw new IllegalStateException("for the test");
        }
    }

    @Test
    void whatIsCommittedIsAcknowledgedAndDeliveredOnceThoughOneWhoIsToldOfItFails() {
        try (TestService service = TestService.with(TestDatabase.fresh(), Failing.class);
                Receiver receiver = Receiver.answering(200)) {
            Client client = service.client();
            client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
            Client.good(client.adopt("""
                    inlets:
                      i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                    outlets:
                      o: {kind: http, to: {url: "%s/"}}
                    lanes:
                      l: {inlets: [i], outlet: o, order: device}
                    """.formatted(receiver.address())));

            for (int n = 0; n < 5; n++) {
                client.send("i", "{\"id\":\"d\",\"n\":" + n + "}");
            }

            client.awaitNothingWaits();
            assertThat(receiver.came().stream()
                            .map(came ->
                                    Client.JSON.readTree(came.body()).path("n").asInt()))
                    .containsExactly(0, 1, 2, 3, 4);
            assertThat(client.get("/api/v1/balance/differences")).isEmpty();
        }
    }
}
