package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.function.Predicate;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestBroker;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** How a connection to a broker stands, is checked and is mended, seen at real brokers. */
class BrokerConnectionTest extends MqttTest {

    private static final String[] AT_LOOPBACK = {"-ext", "san=ip:127.0.0.1"};

    @TempDir
    private Path folder;

    private JsonNode lastStep() {
        JsonNode steps = Client.good(client.post("/api/v1/connections/plant/check", Map.of()))
                .json();
        return steps.get(steps.size() - 1);
    }

    private void troublesAre(Predicate<String> wanted) {
        Client.await(() -> client.get("/api/v1/status").path("troubles").toString(), wanted);
    }

    @Test
    void aChangedPasswordIsToldInWordsAndMendedInOnePlace() {
        broker = TestBroker.closed("pumps", "first-password");
        saveLogin("pumps", "first-password");
        Client.good(client.adopt(setup(
                ", credential: plant-login", "topics: [\"pumps/{house}\"]", "format: json, device: meta.path.house")));
        inletSays("subscribed");

        broker.changePassword("pumps", "second-password");
        inletSays("the broker does not let user `pumps` in: the user or the password is wrong");
        connectionSays("the broker does not let user `pumps` in");
        assertThat(inlet().at("/connection/state").asString()).isEqualTo("refused");
        troublesAre(troubles -> troubles.contains("is refused: the broker does not let user `pumps` in"));
        assertThat(lastStep().path("step").asString()).isEqualTo("signed in");
        assertThat(lastStep().path("result").asString()).isEqualTo("failed");

        saveLogin("pumps", "second-password");
        inletSays("subscribed");
        troublesAre(troubles -> !troubles.contains("refused"));
        assertThat(connection().at("/status/state").asString()).isEqualTo("connected");
        assertThat(lastStep().path("result").asString()).isEqualTo("passed");
        broker.publish("pumps/north", reading(1));
        assertThat(came(1)).containsExactly("1");
    }

    @Test
    void aBrokerThatWantsAUserSaysSoWhereNoCredentialIsNamed() {
        broker = TestBroker.closed("pumps", "first-password");
        adopt("topics: [\"pumps/{house}\"]");

        inletSays("the broker lets nobody in who does not sign in, and the connection names no credential");
    }

    @Test
    void anUnknownAuthorityIsShownAndTrustedByAgreement() throws IOException {
        TestCertificates made = new TestCertificates(folder);
        Pair authority = made.authority("larkmoor-authority");
        secureBroker(made.signed("broker", authority, AT_LOOPBACK), null);
        adoptSecure("");

        inletSays("its certificate is signed by an authority this machine does not trust: CN=larkmoor-authority");
        JsonNode step = lastStep();
        assertThat(step.path("step").asString()).isEqualTo("TLS");
        assertThat(step.at("/offer/act").asString()).isEqualTo("Trust this authority for this connection");

        String pem = step.at("/offer/settings/authority").asString();
        adoptSecure(", authority: " + Client.JSON.writeValueAsString(pem));
        inletSays("subscribed");
        assertThat(lastStep().path("result").asString()).isEqualTo("passed");
    }

    @Test
    void anExpiredCertificateIsToldWithItsDate() throws IOException {
        TestCertificates made = new TestCertificates(folder);
        Pair authority = made.authority("larkmoor-authority");
        secureBroker(
                made.signed("broker", authority, "-ext", "san=ip:127.0.0.1", "-startdate", "-20d", "-validity", "10"),
                null);
        adoptSecure(", authority: " + Client.JSON.writeValueAsString(authority.pem()));

        inletSays("its certificate has expired");
    }

    @Test
    void aBundleOfTextsSignsInByCertificate() throws IOException {
        TestCertificates made = new TestCertificates(folder);
        Pair authority = made.authority("larkmoor-authority");
        secureBroker(made.signed("broker", authority, AT_LOOPBACK), authority);
        client.save("plant-login", Map.of("form", "bundle", "pem", authority.pem()));
        adoptSecure(", credential: plant-login");
        Client.await(
                () -> inlet().at("/connection/state").asString(),
                state -> !state.equals("connected") && !state.equals("connecting"));

        Pair gateway = made.signed("pump-gateway", authority);
        client.save("plant-login", Map.of("form", "bundle", "pem", gateway.keyPem() + authority.pem() + gateway.pem()));

        inletSays("subscribed");
    }

    private void secureBroker(Pair server, Pair clients) throws IOException {
        broker = TestBroker.made("allow_anonymous true");
        Files.writeString(broker.folder().resolve("server.pem"), server.pem());
        Files.writeString(broker.folder().resolve("server.key"), server.keyPem());
        broker.configure("certfile FOLDER/server.pem", "keyfile FOLDER/server.key");
        if (clients != null) {
            Files.writeString(broker.folder().resolve("clients.pem"), clients.pem());
            broker.configure("cafile FOLDER/clients.pem", "require_certificate true");
        }
        broker.start();
    }

    private void adoptSecure(String to) {
        Client.good(client.adopt(setup(to, "topics: [\"pumps/{house}\"]", "format: json, device: meta.path.house")
                .replace("mqtt://", "mqtts://")));
    }

    @Test
    void aPortOfTlsThatIsSpokenToWithoutItIsToldAsSuch() throws IOException {
        TestCertificates made = new TestCertificates(folder);
        secureBroker(made.signed("broker", made.authority("larkmoor-authority"), AT_LOOPBACK), null);
        adopt("topics: [\"pumps/{house}\"]");

        inletSays("does not answer as a broker does");
        assertThat(lastStep().path("mend").asString()).contains("write mqtts");
    }

    @Test
    void aWebSocketIsSpokenToo() {
        broker = TestBroker.made("allow_anonymous true", "protocol websockets");
        // This version starts none for WebSocket without one for plain connections.
        broker.configure("listener 0 127.0.0.1");
        broker.start();
        Client.good(client.adopt(setup("", "topics: [\"pumps/{house}\"]", "format: json, device: meta.path.house")
                .replace("mqtt://127.0.0.1:" + broker.port(), "ws://127.0.0.1:" + broker.port() + "/mqtt")));

        inletSays("subscribed");
    }

    @Test
    void aLookAroundShowsTheTopicsThatCarryTraffic() {
        broker = TestBroker.open();
        broker.publishRetained("site/north/flow", "12.5");
        broker.publishRetained("site/south/flow", "3");
        adopt("topics: []");

        JsonNode look = Client.good(client.post("/api/v1/connections/plant/look", Map.of("seconds", 1)))
                .json();
        assertThat(look.path("messages").asInt()).isEqualTo(2);
        assertThat(look.at("/found/0/name").asString()).isEqualTo("site");
        assertThat(look.at("/found/0/below/0/below/0/last").asString()).isEqualTo("12.5");

        JsonNode north = Client.good(
                        client.post("/api/v1/connections/plant/look", Map.of("seconds", 1, "within", "site/north/#")))
                .json();
        assertThat(north.path("messages").asInt()).isEqualTo(1);
        assertThat(client.post("/api/v1/connections/plant/look", Map.of("within", "a/#/b"))
                        .status())
                .isEqualTo(400);
        assertThat(client.post("/api/v1/connections/plant/look", Map.of("seconds", 100))
                        .status())
                .isEqualTo(400);
        broker.stop();
        Client.Answer failed = client.post("/api/v1/connections/plant/look", Map.of("seconds", 1));
        assertThat(failed.status()).isEqualTo(502);
        assertThat(failed.body()).contains("nobody listens");
    }

    @Test
    void aConnectionThatIsUsedCannotBeRemoved() {
        broker = TestBroker.open();
        adopt("topics: [\"pumps/{house}\"]");

        JsonNode view = connection();
        assertThat(view.path("inlets").get(0).asString()).isEqualTo("m");
        Client.Answer answer =
                client.keyed("DELETE", "/api/v1/setup/parts/connections/plant", new byte[0], "application/json");
        assertThat(answer.status()).isEqualTo(409);
        assertThat(answer.body()).contains("is needed by inlet m");
    }
}
