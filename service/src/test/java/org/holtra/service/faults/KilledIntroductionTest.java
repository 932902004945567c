package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudDevice;
import org.holtra.standins.cloud.CloudServer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Two nodes introduce devices while one or the other is killed: between what is asked for there and what is written here. */
@Tag("long")
class KilledIntroductionTest {

    private static final int ROUNDS = 4;
    private static final int DEVICES_OF_A_ROUND = 25;
    private static final Duration PATIENCE = Duration.ofMinutes(5);
    private static final String SETUP = """
            inlets:
              i: {kind: http, at: {path: i, credential: c}, device: data.id}
            outlets:
              cloud:
                kind: http
                to: {url: "http://127.0.0.1:%d", credential: cloud, timeout: 5s}
                introduction:
                  find: {shape: {method: GET, path: /devices, query: {key: "${device.key}"}}, id: "answer.body.items[0].id"}
                  create:
                    shape: {path: /devices, body: {key: "${device.key}", name: "${device.key}"}}
                    id: answer.body.id
                    secret: answer.body.token
                  activate: {shape: {method: PUT, path: "/devices/${there.id}/state", body: {active: true}}}
                  remove: {shape: {method: DELETE, path: "/devices/${there.id}"}}
            lanes:
              up: {inlets: [i], outlet: cloud, order: device, shape: {path: "/devices/${there.id}/measurements", body: {n: "${data.n}"}}}
            """;

    @TempDir
    private Path folder;

    private final Random random = new Random(Long.getLong("holtra.faults.seed", 7));
    private final Cloud cloud = new Cloud(new Random(1));
    private final List<NodeProcess> nodes = new ArrayList<>();
    private CloudServer server;

    @AfterEach
    void tearDown() {
        nodes.forEach(NodeProcess::kill);
        server.close();
    }

    private NodeProcess node(String name, TestDatabase database) {
        NodeProcess node = new NodeProcess(name, folder, database);
        nodes.add(node);
        node.setClock(0);
        node.start();
        return node;
    }

    @Test
    void noDeviceIsCreatedTwiceAndNoMessageIsLost() throws Exception {
        Files.createDirectories(folder);
        server = new CloudServer(cloud, 0, "cloud-token");
        server.answerAfter(40);
        cloud.wantOwnTokens(true);
        TestDatabase database = TestDatabase.fresh();
        NodeProcess one = node("one", database);
        Client client = one.ready();
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        client.save("cloud", Map.of("form", "bearer", "token", "cloud-token"));
        Client.good(client.adopt(SETUP.formatted(server.port())));
        NodeProcess two = node("two", database);
        two.ready();

        int sent = 0;
        for (int round = 0; round < ROUNDS; round++) {
            for (int n = 0; n < DEVICES_OF_A_ROUND; n++) {
                client.send("i", "{\"id\":\"d-%d-%d\",\"n\":%d}".formatted(round, n, n));
                sent++;
            }
            int wanted = round * DEVICES_OF_A_ROUND + 1 + random.nextInt(DEVICES_OF_A_ROUND / 2);
            Client.await(cloud::creations, count -> count >= wanted, PATIENCE);
            NodeProcess victim = random.nextBoolean() ? one : two;
            victim.kill();
            victim.start();
            one.ready();
            two.ready();
        }

        int all = sent;
        Client.await(
                () -> cloud.counts().values().stream()
                        .mapToInt(Integer::intValue)
                        .sum(),
                sum -> sum == all,
                PATIENCE);
        assertThat(cloud.counts().values()).containsOnly(1);
        assertThat(cloud.devices())
                .extracting(CloudDevice::key)
                .doesNotHaveDuplicates()
                .hasSize(all);
    }
}
