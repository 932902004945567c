package org.holtra.service.cluster;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.Test;

/** What a newer version writes into the same tables, this one ignores. */
class MixedVersionsTest extends ServiceTest {

    private static final String SETUP = """
            inlets:
              in: {kind: http, at: {path: in, credential: sender}, device: data.id}
            outlets:
              out: {kind: http, to: {url: "%s"}}
            lanes:
              through: {inlets: [in], outlet: out}
            """;

    private static void newerWrites(TestDatabase database) {
        database.execute("alter table message drop constraint message_state_check");
        database.execute("update message set state = 'parked', reason = 'a newer version parks it'");
        database.execute("insert into tally (minute, what, name, count) values "
                + "(date_trunc('minute', now()), 'PARKED', 'through', 7)");
        database.execute("insert into outlet_health (outlet, state, reason, since, probes, stopped_millis) values "
                + "('out', 'THROTTLED', 'a newer version throttles it', now(), 0, 0) "
                + "on conflict (outlet) do update set state = 'THROTTLED'");
        database.execute("alter table message add column parked_by text");
        database.execute("alter table owed add column urgency integer default 3");
        database.execute("notify holtra, '00000000-0000-0000-0000-000000000001 PARKED out'");
        database.execute("insert into flyway_schema_history (installed_rank, version, description, type, script, "
                + "checksum, installed_by, execution_time, success) values "
                + "(99, '99', 'newer', 'SQL', 'V99__newer.sql', 1, 'holtra', 1, true)");
    }

    @Test
    void statesCountsEventsAndColumnsOfANewerVersionAreIgnoredAlsoAtTheStart() {
        Client.good(client.adopt(SETUP.formatted(receiver.address())));
        String first = client.send("in", "{\"id\":\"a\"}");
        client.traceWhen(first, trace -> Client.state(trace).equals("delivered"));
        newerWrites(service.database());

        works(2);
        assertThat(client.trace(first).toString()).contains("a newer version parks it");

        restart();
        works(3);
    }

    private void works(int number) {
        client.send("in", "{\"id\":\"a\",\"n\":" + number + "}");
        Client.await(receiver::came, came -> came.size() >= number);
        assertThat(client.get("/api/v1/overview").path("lanes").size()).isEqualTo(1);
        assertThat(client.get("/api/v1/outlets").get(0).path("state").asString())
                .isIn("flowing", "quiet");
        assertThat(client.get("/api/v1/messages?from=" + Instant.now().minusSeconds(600))
                        .size())
                .isPositive();
        assertThat(client.get("/api/v1/balance").path("intake").path("missing").asLong())
                .isZero();
    }
}
