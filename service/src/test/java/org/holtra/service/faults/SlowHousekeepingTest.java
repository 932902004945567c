package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.UUID;
import org.holtra.service.cluster.Node;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class SlowHousekeepingTest extends ServiceTest {

    /** Everything that is done regularly waits for a table, but for what must not. */
    private static final String HOUSEKEEPING = "tally, acknowledged, acknowledgement_log, backlog, dead_count, trouble,"
            + " spool_report, device, field_seen, job, listening, outlet_health";

    @Test
    void aDatabaseThatAnswersHousekeepingSlowlyCostsNoLeaseAndNoMessage() throws SQLException {
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  s: {inlets: [s], outlet: s, state: closed}
                """.formatted(receiver.address())));
        Node node = service.bean(Node.class);
        UUID id = node.id();
        try (Connection slow = service.database().connect();
                var statement = slow.createStatement()) {
            slow.setAutoCommit(false);
            // The backlog is counted by a trigger of what is owed, so a message cannot do without it.
            statement.execute("lock table " + HOUSEKEEPING.replace(" backlog,", "") + " in access exclusive mode");
            long renewals = renewals();

            // Four leases long, as the database counts.
            Client.await(this::renewals, count -> count >= renewals + 12, Duration.ofMinutes(2));

            assertThat(node.id()).isEqualTo(id);
            assertThat(node.holdsLease()).isTrue();
            Client.Answer taken = client.call("POST", "/in/s", "{}".getBytes(), "Authorization", "Bearer in-token-1");
            assertThat(taken.status()).isEqualTo(202);
            slow.rollback();
        }
    }

    private String lease = "";
    private long seen;

    /** How often the lease was seen to be another. */
    private long renewals() {
        String now = service.database().texts("select lease_until from node").getFirst();
        seen += now.equals(lease) ? 0 : 1;
        lease = now;
        return seen;
    }
}
