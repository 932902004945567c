package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestBroker;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A broker that inlets and outlets share, seen, checked, looked around at and mended by the command line. */
class ConnectionsOnTheCommandLineTest extends AsProcess {

    private static TestBroker broker;
    private static Client client;

    @BeforeAll
    static void start() {
        broker = TestBroker.closed("plant", "first-password");
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        client.save("plant", Map.of("form", "login", "user", "plant", "password", "first-password"));
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s", credential: plant}}
                inlets:
                  wells: {kind: mqtt, at: {connection: plant, topics: ["wells/+"]}}
                """.formatted(broker.address())));
    }

    @AfterAll
    static void end() {
        service.close();
        broker.close();
    }

    /** The service is asked until it is so; then the command has to say the same. */
    private void listSays(String words) throws Exception {
        Client.await(() -> client.get("/api/v1/connections").toString(), all -> all.contains(words));
        assertThat(holtra("connection", "list").out()).contains(words);
    }

    @Test
    void aConnectionIsSeenCheckedLookedAroundAtAndMended() throws Exception {
        listSays("used by inlet wells");
        assertThat(holtra("connection", "list").out()).containsPattern("plant +mqtt +mqtt://127.0.0.1:\\d+ +connected");
        assertThat(holtra("connection", "show", "plant").out())
                .contains("address:")
                .contains("# used by inlet wells");
        assertThat(holtra("connection", "check", "plant").out()).containsPattern("signed in +passed");

        broker.publishRetained("site/north", "12.5");
        assertThat(holtra("connection", "look", "plant", "--for", "10s").out())
                .containsPattern("site/north +1 .*12.5 \\(retained\\)");
        assertThat(holtra("connection", "look", "plant", "--within", "none/#", "--for", "1s")
                        .out())
                .contains("Nothing came in 1 s.");

        broker.changePassword("plant", "second-password");
        listSays("the broker does not let user `plant` in");
        assertThat(holtra("connection", "check", "plant").exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(holtra("connection", "look", "plant", "--for", "1s").err()).contains("does not let user `plant` in");

        client.save("plant", Map.of("form", "login", "user", "plant", "password", "second-password"));
        listSays("used by inlet wells");
        assertThat(holtra("connection", "log", "plant").out())
                .contains("refused: the broker does not let user `plant` in")
                .contains("connected: used by inlet wells");
        assertThat(holtra("connection", "remove", "plant").err()).contains("needed by inlet wells");
    }
}
