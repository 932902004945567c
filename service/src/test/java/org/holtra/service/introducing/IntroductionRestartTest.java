package org.holtra.service.introducing;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.Map;
import java.util.Random;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestService;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudServer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Introductions outlive the service, and are shared by nodes. */
class IntroductionRestartTest extends ServiceTest implements CloudTest {

    private static final String AT = "/api/v1/outlets/cloud/";

    private final Cloud cloud = new Cloud(new Random(1));
    private CloudServer server;

    @BeforeEach
    void adopt() throws IOException {
        server = new CloudServer(cloud, 0, "cloud-token");
        client.save("cloud", Map.of("form", "bearer", "token", "cloud-token"));
        adopt("");
    }

    @AfterEach
    void close() {
        server.close();
    }

    private void adopt(String more) {
        Client.good(client.adopt(CloudSetup.of(server.port(), more)));
    }

    @Override
    public Client client() {
        return client;
    }

    @Override
    public String outlet() {
        return "cloud";
    }

    @Override
    public Cloud cloud() {
        return cloud;
    }

    @Test
    void messagesPresentTheTokenThatTheDestinationGaveTheDevice() {
        cloud.wantOwnTokens(true);

        JsonNode trace = becomes(send("a", 1), "delivered");

        String token = cloud.byKey("a").orElseThrow().token();
        assertThat(device("a").path("ownCredential").asBoolean()).isTrue();
        assertThat(trace.toString()).doesNotContain(token).contains("Bearer •••");
        assertThat(introductions().toString()).doesNotContain(token);
        restart();
        becomes(send("a", 2), "delivered");
    }

    @Test
    void whatIsUnderWayWhenTheServiceEndsIsTakenUpAndLooksBeforeItCreates() {
        server.answerAfter(1_500);
        send("a", 1);
        Client.await(cloud::creations, count -> count == 1);

        restart();
        server.answerAfter(0);

        Client.await(() -> bodies("a"), bodies -> bodies.size() == 1);
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void twoNodesIntroduceEachDeviceOnceAndOneThatEndsIsFollowedByTheOther() {
        server.answerAfter(60);
        try (TestService other = service.beside()) {
            Client second = other.client();
            for (int n = 0; n < 30; n++) {
                send("d-" + n % 15, n);
                second.send("i", "{\"id\":\"d-" + n % 15 + "\",\"n\":" + (100 + n) + "}");
            }
            Client.await(cloud::creations, count -> count > 3);
            restart();
            Client.await(
                    () -> cloud.counts().values().stream()
                            .mapToInt(Integer::intValue)
                            .sum(),
                    sum -> sum == 60);
        }

        assertThat(cloud.creations()).isEqualTo(15);
        assertThat(cloud.devices()).hasSize(15);
    }
}
