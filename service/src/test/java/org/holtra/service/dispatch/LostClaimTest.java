package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import org.holtra.service.journal.Backlog;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

/** Deliveries that a node claimed and never heard of, since the answer was lost with the connection. */
class LostClaimTest extends ServiceTest {

    private void adopt(String state) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: http, state: %s, to: {url: "%s/"}}
                lanes:
                  free: {inlets: [i], outlet: o}
                  kept: {inlets: [i], outlet: o, order: device}
                """.formatted(state, receiver.address())));
    }

    @Test
    void whatALookClaimedThatCameToNothingIsSetFreeAndDelivered() {
        adopt("closed");
        client.send("i", "{\"id\":\"d\",\"n\":1}");
        client.send("i", "{\"id\":\"d\",\"n\":2}");
        service.close();
        service = service.again();
        client = service.client();
        Client.await(
                () -> service.database().texts("select count(*)::text from owed where owner is null"),
                count -> count.equals(List.of("4")));
        UUID look = UUID.randomUUID();
        service.database()
                .texts("update owed set owner = (select id from node), claim = '" + look + "' returning id::text");
        adopt("open");
        Client.await(
                () -> client.get("/api/v1/outlets").get(0),
                one -> one.path("state").asString().equals("flowing"));

        service.bean(Backlog.class).doubt(new Backlog.Claim(UUID.randomUUID(), look));

        Client.await(() -> receiver.came().size(), size -> size == 4);
        assertThat(receiver.came().stream()
                        .filter(came -> came.header("Idempotency-Key").endsWith(".kept"))
                        .map(came -> Client.JSON.readTree(came.body()).path("n").asInt()))
                .containsExactly(1, 2);
    }

    @Test
    void whatWasWrittenUnderTheNameOfANodeThatIsGoneIsSetFree() {
        adopt("closed");
        client.send("i", "{\"id\":\"d\",\"n\":1}");
        Client.await(
                () -> service.database().texts("select count(*)::text from owed"), count -> count.equals(List.of("2")));
        service.database()
                .texts(
                        "insert into node (id, name, started, lease_until) values (gen_random_uuid(), 'gone', now(), now())"
                                + " returning name");
        Client.await(() -> service.database().texts("select name from node"), names -> !names.contains("gone"));
        service.database().texts("update owed set owner = gen_random_uuid() returning id::text");

        adopt("open");

        // What it had in hand as well comes twice, under the same key.
        Client.await(
                () -> receiver.came().stream()
                        .map(came -> came.header("Idempotency-Key"))
                        .distinct()
                        .count(),
                count -> count == 2);
    }

    @Test
    void aNodeThatWasGivenUpWhileItWasAtWorkDeliversAllUnderItsNewName() {
        adopt("open");
        CountDownLatch givenUp = new CountDownLatch(1);
        receiver.answer(n -> {
            assertThat(Client.await(() -> givenUp.getCount(), count -> count == 0))
                    .isZero();
            return new Receiver.Reply(200, "");
        });
        int messages = 120;
        for (int n = 0; n < messages; n++) {
            client.send("i", "{\"id\":\"d" + n % 3 + "\",\"n\":" + n + "}");
            if (n == messages / 2) {
                service.database()
                        .texts("with gone as (delete from node returning id) update owed set owner = null"
                                + " where owner in (select id from gone) returning id::text");
            }
        }
        givenUp.countDown();

        Client.await(
                () -> service.database().texts("select count(*)::text from owed"), count -> count.equals(List.of("0")));
        assertThat(receiver.came().stream()
                        .map(came -> came.header("Idempotency-Key"))
                        .distinct())
                .hasSize(2 * messages);
    }
}
