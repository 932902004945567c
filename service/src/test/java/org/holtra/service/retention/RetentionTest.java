package org.holtra.service.retention;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class RetentionTest {

    /** Moves all that is there thirty days back, as if it had come then. */
    private static void age(TestDatabase database) {
        for (String table : new String[] {"message", "outcome", "attempt"}) {
            database.execute("alter table " + table + " detach partition " + table + "_kept");
            database.execute("create table " + table + "_20260101 partition of " + table
                    + " for values from ('2026-01-01') to ('2026-01-02')");
            database.execute("alter table " + table + " attach partition " + table
                    + "_kept for values from (minvalue) to ('2026-01-01')");
        }
        for (String table : new String[] {"message", "outcome", "attempt", "owed", "dead_letter"}) {
            database.execute("update " + table
                    + " set received = timestamptz '2026-01-01 12:00Z' + (received - date_trunc('minute', received))");
        }
        database.execute("delete from tally");
        database.execute("insert into tally (minute, what, name, count)"
                + " values ('2026-01-01 12:00Z', 'ACKNOWLEDGED', 'r', 3)");
    }

    @Test
    void oldDaysAreDroppedButNotWhatIsOwedAndTheirBooksStay() {
        try (Receiver receiver = Receiver.answering(200);
                TestService service = TestService.start(TestDatabase.fresh(), Map.of("holtra.keep-messages-days", 7))) {
            Client client = service.client();
            client.save("r", Map.of("form", "bearer", "token", "token-token"));
            Client.good(client.adopt("""
                    inlets:
                      r: {kind: http, at: {path: r, credential: r}, device: data.id}
                    outlets:
                      r: {kind: http, to: {url: "%s"}}
                      refusing: {kind: http, to: {url: "%s/no"}}
                      closed: {kind: http, state: closed, to: {url: "%s"}}
                    lanes:
                      r: {inlets: [r], pick: data.n == 1, outlet: r}
                      dead: {inlets: [r], pick: data.n == 2, outlet: refusing}
                      waits: {inlets: [r], pick: data.n == 3, outlet: closed}
                    """.formatted(receiver.address(), receiver.address(), receiver.address())));
            receiver.answer(number ->
                    new Receiver.Reply(receiver.came().get(number - 1).target().endsWith("/no") ? 400 : 200, ""));
            client.send("r", "{\"id\":\"a\",\"n\":1}");
            client.send("r", "{\"id\":\"a\",\"n\":2}");
            client.send("r", "{\"id\":\"a\",\"n\":3}");
            Client.await(
                    () -> client.get("/api/v1/balance"),
                    balance -> balance.at("/lanes/0/dead").asInt()
                                    + balance.at("/lanes/1/delivered").asInt()
                            == 2);
            age(service.database());

            service.bean(Retention.class).drop();

            assertThat(service.database().texts("select body from message where inlet = 'r'"))
                    .hasSize(2);
            assertThat(service.database().texts("select tableoid::regclass from message where inlet = 'r'"))
                    .containsOnly("message_kept");
            assertThat(service.database().texts("select fate from outcome")).isEmpty();
            JsonNode storage = client.get("/api/v1/storage");
            assertThat(storage.at("/balances/2026-01-01/acknowledged").asInt()).isEqualTo(3);
            assertThat(storage.at("/balances/2026-01-01/r delivered").asInt()).isEqualTo(1);
            assertThat(storage.at("/balances/2026-01-01/dead dead").asInt()).isEqualTo(1);
            assertThat(storage.at("/kept/1/what").asString()).isEqualTo("message");
            assertThat(storage.at("/kept/1/limit").asInt()).isEqualTo(7);
            assertThat(client.get("/api/v1/balance?from=2025-12-01T00:00:00Z")
                            .path("missing")
                            .asInt())
                    .isZero();

            service.database()
                    .execute(
                            "insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts)"
                                    + " values (gen_random_uuid(), gen_random_uuid(), '2026-01-01 12:00Z', 'r', 'r', 'delivered', now(), 1)");
            assertThat(service.database().texts("select tableoid::regclass from outcome"))
                    .as("what becomes of old messages has a place")
                    .containsExactly("outcome_kept");

            receiver.answer(number -> new Receiver.Reply(200, ""));
            Client.good(client.post("/api/v1/dead/retry", Map.of("all", true)));
            Client.await(() -> receiver.came().size(), size -> size == 3);
            Client.await(
                    () -> {
                        service.bean(Retention.class).drop();
                        return service.database().texts("select id from message where inlet = 'r'");
                    },
                    left -> left.size() == 1);
        }
    }
}
