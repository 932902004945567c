package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class SettledTwiceTest extends ServiceTest {

    /** As when a node was given up while it sent something, and took it again under its new id. */
    @Test
    void aDeliveryThatIsSettledTwiceAtOnceHasOneFate() throws InterruptedException {
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  s: {inlets: [s], outlet: s, state: closed}
                """.formatted(receiver.address())));
        client.send("s", "{}");
        UUID owner = UUID.randomUUID();
        Delivery delivery = Client.await(
                        () -> service.bean(Backlog.class)
                                .claim(
                                        new Backlog.Claim(owner, UUID.randomUUID()),
                                        "s",
                                        Instant.EPOCH,
                                        Instant.now().plusSeconds(60),
                                        Backlog.Room.of(10),
                                        List.of()),
                        claimed -> claimed.size() == 1)
                .getFirst();
        Settlement dead = new Settlement(
                delivery.owed().after(1, Instant.now(), null, null, "for the test"),
                null,
                Settlement.Kind.DEAD,
                "test",
                Instant.now());
        Journal journal = service.bean(Journal.class);

        CompletableFuture<Void> first = journal.settle(dead, owner);
        CompletableFuture<Void> second = journal.settle(dead, owner);

        CompletableFuture.allOf(first, second).join();
        assertThat(service.database().texts("select delivery from dead_letter"))
                .containsExactly(delivery.id().toString());
        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
    }
}
