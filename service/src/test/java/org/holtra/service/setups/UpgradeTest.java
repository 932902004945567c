package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.zip.GZIPInputStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/**
 * A service takes over the database that an earlier version filled. The one here was filled by the demo on the first tables
 * (migration 1), and has deliveries that wait; it was written by {@code pg_dump --inserts}.
 */
class UpgradeTest {

    /** The demo's messages are as old as the dump. */
    private static final Map<String, Object> FOR_EVER =
            Map.of("holtra.keep-messages-days", 0, "holtra.keep-attempts-days", 0);

    @TempDir
    private Path folder;

    private TestDatabase database;
    private TestService service;
    private Client client;

    @BeforeEach
    void takeOver() throws IOException {
        database = TestDatabase.empty();
        try (InputStream dump = new GZIPInputStream(resource("first.sql.gz"))) {
            database.restore(new String(dump.readAllBytes(), StandardCharsets.UTF_8));
        }
        Files.copy(resource("first.key"), folder.resolve("first.key"));
        service = TestService.on(database, folder.resolve("first.key"), text("first.api-key"), FOR_EVER);
        client = service.client();
    }

    @AfterEach
    void end() {
        service.close();
    }

    private static InputStream resource(String name) {
        return UpgradeTest.class.getResourceAsStream(name);
    }

    private static String text(String name) throws IOException {
        try (InputStream in = resource(name)) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8).strip();
        }
    }

    private int count(String query) {
        return Integer.parseInt(database.texts(query).getFirst());
    }

    @Test
    void theTablesAreThoseOfThisVersionAndNothingIsLost() {
        List<String> migrations = database.texts("select version from flyway_schema_history order by installed_rank");

        assertThat(migrations).startsWith("1").hasSizeGreaterThan(1);
        assertThat(count("select count(*) from message")).isGreaterThan(100);
        String first = database.texts("select min(received)::text from message")
                        .getFirst()
                        .replace(' ', 'T') + ":00";
        JsonNode balance = client.get("/api/v1/balance?from=" + first.replace("+", "%2B"));
        assertThat(balance.at("/intake/read").asInt()).isGreaterThan(100);
        assertThat(balance.path("missing").asInt()).as(balance.toString()).isZero();
    }

    @Test
    void whatWasDeliveredHasItsTraceAndWhatWaitedIsTried() {
        String delivered = database.texts("select message::text from outcome where fate = 'delivered' limit 1")
                .getFirst();
        assertThat(client.trace(delivered).at("/lanes").toString()).contains("\"state\":\"delivered\"");

        String waiting =
                database.texts("select message::text from owed limit 1").getFirst();
        Client.await(
                () -> client.trace(waiting).at("/lanes").toString(),
                lanes -> lanes.contains("\"verdict\":\"try later\""));
    }

    @Test
    void setupCredentialsAndDevicesAreThere() {
        assertThat(client.get("/api/v1/setup/revisions").path("revisions")).isNotEmpty();
        assertThat(client.get("/api/v1/credentials").toString()).contains("network-server", "works-desk");
        assertThat(client.get("/api/v1/devices?limit=1").path("total").asInt()).isGreaterThan(50);

        String id = client.send(
                "pump-houses", "{\"pump\":\"ph-01\",\"at\":\"2026-11-28T23:00:00Z\",\"state\":1,\"flow\":40}");

        assertThat(client.trace(id).at("/message/state").asString()).isEqualTo("read");
        assertThat(client.trace(id).at("/message/device").asString()).isEqualTo("ph-01");
    }
}
