package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.setup.Inlet;
import org.holtra.service.cluster.Node;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Receipt;
import org.holtra.service.setups.Setups;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

/** A node that is given up just between two commits of another, which is alone from then on. */
class AloneAgainTest extends ServiceTest {

    private static final String LOCK = "select pg_advisory_xact_lock(20260)";

    private final List<CompletableFuture<Receipt>> taken = new ArrayList<>();

    private void adopt(String state) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: http, state: %s, to: {url: "%s/"}}
                lanes:
                  l: {inlets: [i], outlet: o, order: device}
                """.formatted(state, receiver.address())));
    }

    private void take(String device, int number) {
        Intake intake = service.bean(Intake.class);
        Inlet inlet = service.bean(Setups.class).current().inlets().get("i");
        byte[] body = ("{\"id\":\"" + device + "\",\"n\":" + number + "}").getBytes(StandardCharsets.UTF_8);
        taken.add(intake.take(
                new Arrival(intake.nextId(), "i", Transport.of("127.0.0.1", "/in/i"), "application/json", body),
                inlet));
    }

    private List<String> owners() {
        return service.database()
                .texts("select coalesce(owner::text, 'nobody') from owed where device = 'd' order by sequence");
    }

    private void awaitWaitingForLock(int connections) {
        Client.await(
                () -> service.database()
                        .texts("select count(*)::text from pg_locks l join pg_database d on d.oid = l.database"
                                + " where d.datname = current_database() and locktype = 'advisory' and not granted"),
                count -> count.equals(List.of(Integer.toString(connections))));
    }

    private Connection begin() throws SQLException {
        Connection connection = service.database().connect();
        connection.setAutoCommit(false);
        return connection;
    }

    private static void run(Connection connection, String sql) {
        try (var statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    /** What its closed outlet is owed next is in this node's hands: it has been through the table. */
    private boolean dispatchesFromMemory() {
        adopt("open");
        take("w", 0);
        client.awaitNothingWaits();
        adopt("closed");
        take("w", 1);
        CompletableFuture.allOf(taken.toArray(CompletableFuture[]::new)).join();
        return !service.database()
                .texts("select owner::text from owed where owner is not null")
                .isEmpty();
    }

    @Test
    void whatFollowsUnderAnOrderKeyIsNotTakenInHandBeforeWhatWasWrittenForEither() throws SQLException {
        Client.await(this::dispatchesFromMemory, yes -> yes);
        service.database().execute("""
                insert into node (id, name, started, lease_until) values (gen_random_uuid(), 'other', now(), now() + interval '1 hour')""");

        try (Connection first = begin();
                Connection second = begin()) {
            run(first, LOCK);
            take("d", 0);
            awaitWaitingForLock(1);
            for (int number = 1; number < 6; number++) {
                take("d", number);
            }
            CompletableFuture<Void> locked = CompletableFuture.runAsync(() -> run(second, LOCK));
            awaitWaitingForLock(2);
            first.commit();
            locked.join();
            // The first of them is written, and nobody's; the others are about to be.
            service.database().execute("update node set lease_until = now() - interval '1 s' where name = 'other'");
            service.bean(Node.class).renew();
            assertThat(service.database().texts("select name from node")).doesNotContain("other");
            second.commit();
        }
        CompletableFuture.allOf(taken.toArray(CompletableFuture[]::new)).join();

        assertThat(owners()).hasSize(6).containsOnly("nobody");
        adopt("open");
        client.awaitNothingWaits();
        assertThat(receiver.came().stream()
                        .map(came -> Client.JSON.readTree(came.body()))
                        .filter(body -> body.path("id").asString().equals("d"))
                        .map(body -> body.path("n").asInt()))
                .containsExactly(0, 1, 2, 3, 4, 5);
    }
}
