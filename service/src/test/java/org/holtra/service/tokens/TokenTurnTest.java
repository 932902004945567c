package org.holtra.service.tokens;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import org.holtra.service.credentials.CredentialChanged;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

/** Who asks for the next token, and what becomes of one when something comes in between. */
class TokenTurnTest extends WorksDeskTest {

    private void execute(Connection connection, String sql) throws Exception {
        try (var statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private int count(String sql) {
        return Integer.parseInt(
                service.database().texts("select count(*)::text from " + sql).getFirst());
    }

    /** Leaves what the database keeps of them. */
    private void forgetTokensInMemory(String credential) {
        service.publish(new CredentialChanged(credential));
    }

    @Test
    void aNodeWhoseTurnComesAfterAnothersTakesTheTokenThatTheOtherGot() throws Exception {
        becomes(send("a", "Ashcombe", 1), "delivered");
        service.database().execute("update access_token set expires = now() - interval '1 minute'");
        forgetTokensInMemory("desk");
        String id;
        try (Connection other = service.database().connect()) {
            other.setAutoCommit(false);
            execute(other, "select from access_token for update");
            id = send("a", "Ashcombe", 2);
            Client.await(
                    () -> count("pg_stat_activity where wait_event_type = 'Lock' and query like '%into access_token%'"
                            + " and datname = current_database()"),
                    waiting -> waiting == 1);
            execute(other, "update access_token set expires = now() + interval '1 hour', refreshed = now()");
            other.commit();
        }
        becomes(id, "delivered");

        assertThat(authorization.given()).isEqualTo(1);
        assertThat(count("access_token where node is not null")).isZero();
    }

    @Test
    void aTokenThatComesForWhatTheCredentialWasBeforeIsNotPresented() throws Exception {
        CountDownLatch saved = new CountDownLatch(1);
        try (Receiver tokens = Receiver.answering(200)) {
            tokens.answer(number -> {
                if (number == 1) {
                    Client.await(saved::getCount, count -> count == 0);
                }
                String token = "{\"access_token\":\"token-%d\",\"token_type\":\"Bearer\",\"expires_in\":3600}";
                return new Receiver.Reply(200, token.formatted(number), "Content-Type", "application/json");
            });
            Map<String, String> form = Map.of(
                    "form",
                    "client",
                    "tokenUrl",
                    tokens.address() + "/token",
                    "clientId",
                    "a",
                    "clientSecret",
                    "secret");
            client.save("desk", form);
            adoptTo(receiver.address());
            String id = send("a", "Ashcombe", 1);
            Client.await(() -> tokens.came().size(), size -> size == 1);
            client.save("desk", form);
            saved.countDown();

            becomes(id, "delivered");
        }

        assertThat(receiver.came().getFirst().header("Authorization")).isEqualTo("Bearer token-2");
    }

    @Test
    void aConsentOutlivesNewsOfItsCredentialThatReachANodeLate() throws Exception {
        saveGrant("Ashcombe");
        adopt("credential: ashcombe-desk", "");
        try (TestService other = service.beside()) {
            consent("Ashcombe", "yes");
            other.publish(new CredentialChanged("ashcombe-desk"));

            assertThat(count("access_token where credential = 'ashcombe-desk' and refresh is not null"))
                    .isEqualTo(1);
            other.client().send("i", "{\"id\":\"b\",\"orchard\":\"Ashcombe\",\"n\":1}");
            Client.await(this::inWhoseName, names -> names.size() == 1);
        }
    }

    @Test
    void aRefreshTokenThatTheDatabaseCannotKeepAtOnceIsKeptOnceItCan() throws Exception {
        authorization.setLives(Duration.ofSeconds(1));
        saveGrant("Ashcombe");
        adopt("credential: ashcombe-desk", "");
        consent("Ashcombe", "yes");
        authorization.setLives(Duration.ofHours(1));
        service.database().execute("""
                create function refuse() returns trigger language plpgsql as $$ begin raise exception 'not now'; end $$;
                create trigger refuse before update of token on access_token for each row execute function refuse()
                """);
        try {
            Client.await(
                    () -> becomes(send("a", "Ashcombe", 1), "delivered"), delivered -> authorization.refreshed() == 1);
        } finally {
            service.database().execute("drop trigger refuse on access_token; drop function refuse()");
        }
        Client.await(() -> count("access_token where expires > now() + interval '30 minutes'"), kept -> kept == 1);

        service.database().execute("update access_token set expires = now()");
        forgetTokensInMemory("ashcombe-desk");
        becomes(send("a", "Ashcombe", 2), "delivered");
        assertThat(authorization.refreshed()).isEqualTo(2);
    }
}
