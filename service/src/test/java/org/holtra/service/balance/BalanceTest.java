package org.holtra.service.balance;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.Receiver.Reply;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class BalanceTest {

    private static final TestService SERVICE = TestService.start(TestDatabase.fresh());
    private static final Client CLIENT = SERVICE.client();
    private static final Receiver RECEIVER = new Receiver(n -> new Reply(200, "{}"));

    @BeforeAll
    static void sendSome() {
        CLIENT.save("b", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt("""
                inlets:
                  b: {kind: http, at: {path: b, credential: b}, device: data.id}
                outlets:
                  good: {kind: http, to: {url: "%1$s"}}
                  away: {kind: http, to: {url: "http://127.0.0.1:1"}}
                lanes:
                  all: {inlets: [b], outlet: good}
                  cold: {inlets: [b], pick: data.t < 0, outlet: away}
                """.formatted(RECEIVER.address())));
        RECEIVER.answer(n -> new Reply(n == 1 ? 422 : 200, "{}"));
        CLIENT.send("b", "{\"id\":\"first\",\"t\":1}");
        Client.await(
                () -> CLIENT.get("/api/v1/dead"), dead -> dead.path("total").asInt() == 1);
        for (int i = 0; i < 9; i++) {
            CLIENT.send("b", "{\"id\":\"a\",\"t\":" + (i - 3) + "}");
        }
        CLIENT.send("b", "nonsense");
    }

    @AfterAll
    static void end() {
        RECEIVER.close();
        SERVICE.close();
    }

    private static JsonNode balance() {
        return CLIENT.get("/api/v1/balance");
    }

    private static int owed(JsonNode lane) {
        return lane.path("waiting").asInt() + lane.path("inFlight").asInt();
    }

    @Test
    void theBooksBalanceAndShowEveryFate() {
        JsonNode balance = Client.await(
                BalanceTest::balance,
                now -> now.at("/intake/acknowledged").asInt() == 11
                        && now.at("/lanes/0/delivered").asInt() == 9);

        assertThat(balance.path("missing").asInt()).isZero();
        assertThat(balance.at("/intake/read").asInt()).isEqualTo(10);
        assertThat(balance.at("/intake/unreadable").asInt()).isEqualTo(1);
        JsonNode all = balance.at("/lanes/0");
        assertThat(all.path("taken").asInt()).isEqualTo(10);
        assertThat(all.path("dead").asInt()).isEqualTo(1);
        JsonNode cold = balance.at("/lanes/1");
        assertThat(cold.path("taken").asInt()).isEqualTo(3);
        assertThat(owed(cold)).isEqualTo(3);
    }

    @Test
    void aDeliveryLostBehindItsBackShows() {
        Client.await(BalanceTest::balance, now -> owed(now.at("/lanes/1")) == 3);
        SERVICE.database().execute("create table kept as select * from owed where lane = 'cold' limit 1");
        SERVICE.database().execute("delete from owed where id in (select id from kept)");

        JsonNode balance = balance();
        assertThat(balance.path("missing").asInt()).isEqualTo(1);
        assertThat(balance.at("/lanes/1/missing").asInt()).isEqualTo(1);
        JsonNode difference = CLIENT.get("/api/v1/balance/differences").get(0);
        assertThat(difference.path("lane").asString()).isEqualTo("cold");
        assertThat(difference.path("what").asString()).isEqualTo("taken, and without a fate");
        assertThat(SERVICE.database().texts("select message from kept"))
                .containsExactly(difference.path("message").asString());

        SERVICE.database().execute("insert into owed select * from kept");
        SERVICE.database().execute("drop table kept");
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void anAcknowledgedMessageThatIsNotKeptShows() {
        Client.await(BalanceTest::balance, now -> now.at("/intake/acknowledged").asInt() == 11);
        SERVICE.database().execute("create table gone as select * from message where state = 'unreadable'");
        SERVICE.database().execute("delete from message where state = 'unreadable'");

        assertThat(balance().at("/intake/missing").asInt()).isEqualTo(1);
        JsonNode difference = CLIENT.get("/api/v1/balance/differences").get(0);
        assertThat(difference.path("what").asString()).isEqualTo("acknowledged, and not in the journal");
        assertThat(SERVICE.database().texts("select id from gone"))
                .containsExactly(difference.path("message").asString());

        SERVICE.database().execute("insert into message select * from gone");
        SERVICE.database().execute("drop table gone");
    }

    @Test
    void aWindowThatEndsBeforeItBeginsIsRefused() {
        Client.Answer answer =
                CLIENT.keyed("GET", "/api/v1/balance?from=2026-01-02T00:00:00Z&to=2026-01-01T00:00:00Z", null, "x/y");
        assertThat(answer.status()).isEqualTo(400);
    }
}
