package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

class UncertainCommitTest {

    @Test
    void aMessageWhoseCommitIsInDoubtIsStillDeliveredBeforeThoseThatCameLater() throws IOException {
        TestDatabase direct = TestDatabase.fresh();
        URI address = URI.create(direct.url().substring("jdbc:".length()));
        try (CutProxy proxy = new CutProxy(address.getPort());
                Receiver receiver = Receiver.answering(200);
                TestService service = TestService.start(new TestDatabase(
                        direct.url().replace(":" + address.getPort(), ":" + proxy.port()), direct.password()))) {
            Client client = service.client();
            client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
            Client.good(client.adopt("""
                    inlets:
                      s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                    outlets:
                      s: {kind: http, to: {url: "%s"}}
                    lanes:
                      s: {inlets: [s], outlet: s, order: device}
                    """.formatted(receiver.address())));
            send(service, 1);
            Client.await(() -> receiver.came().size(), size -> size == 1);
            proxy.cutAfterCommitOf("insert into message (");

            for (int number = 2; number <= 6; number++) {
                send(service, number);
            }

            assertThat(proxy.hasCut()).isTrue();
            Client.await(() -> numbers(receiver).size(), size -> size == 6);
            assertThat(numbers(receiver)).containsExactly(1, 2, 3, 4, 5, 6);
            assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
        }
    }

    /** The sender waits for its answer before it sends the next. */
    private static void send(TestService service, int number) {
        Client.Answer answer = new Client(service.address(), "")
                .call(
                        "POST",
                        "/in/s",
                        ("{\"id\":\"a\",\"n\":" + number + "}").getBytes(),
                        "Authorization",
                        "Bearer in-token-1");
        assertThat(answer.status()).isEqualTo(202);
    }

    /** In the order in which each came first. */
    private static List<Integer> numbers(Receiver receiver) {
        return receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()).path("n").asInt())
                .distinct()
                .toList();
    }
}
