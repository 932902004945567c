package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestBroker;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/**
 * Two nodes that take from a real broker with QoS 1, by one inlet that runs on one of them and by one that both share, while nodes
 * are killed and the broker ends, begins and stands still. What the broker acknowledged to its publisher has to come out of both.
 */
@Tag("long")
class MqttFaultTest {

    private static final int DEVICES = 8;
    private static final int ROUNDS = Integer.getInteger("holtra.faults.rounds", 1);
    private static final Duration PATIENCE = Duration.ofMinutes(3);

    @TempDir
    private Path folder;

    private TestDatabase.Cluster cluster;
    private TestBroker broker;
    private Receiver single;
    private Receiver shared;
    private TestDatabase database;
    private NodeProcess one;
    private NodeProcess two;
    private Client client;
    private Publisher publisher;

    /** What was published while perhaps nobody was subscribed by the inlet that both nodes share. */
    private final BitSet unshared = new BitSet();

    @BeforeEach
    void start() {
        cluster = TestDatabase.Cluster.make();
        broker = TestBroker.with("allow_anonymous true", "max_inflight_messages 100", "max_queued_messages 0");
        single = Receiver.answering(200);
        shared = Receiver.answering(200);
        database = cluster.start().newDatabase();
        one = new NodeProcess("one", folder, database);
        two = new NodeProcess("two", folder, database);
        one.setClock(0);
        two.setClock(0);
        one.start();
        client = one.ready();
        Client.good(client.adopt("""
                connections:
                  plant: {kind: mqtt, to: {address: "%s", keepAlive: 3s}}
                inlets:
                  single: {kind: mqtt, at: {connection: plant, topics: ["f/{device}"]}, format: json, device: meta.path.device}
                  shared: {kind: mqtt, at: {connection: plant, topics: ["f/{device}"], share: g}, format: json, device: meta.path.device}
                outlets:
                  single: {kind: http, to: {url: "%s"}}
                  shared: {kind: http, to: {url: "%s"}}
                lanes:
                  single: {inlets: [single], outlet: single, order: device, retry: {first: 50ms, longest: 500ms}, shape: {body: {d: "${device.key}", n: "${data.n}"}}}
                  shared: {inlets: [shared], outlet: shared, retry: {first: 50ms, longest: 500ms}, shape: {body: {d: "${device.key}", n: "${data.n}"}}}
                """.formatted(broker.address(), single.address(), shared.address())));
        two.start();
        two.ready();
        Client.await(
                () -> client.get("/api/v1/inlets")
                        .valueStream()
                        .filter(inlet -> !inlet.path("own").asBoolean())
                        .map(inlet -> inlet.at("/connection/state").asString())
                        .toList(),
                states -> states.stream()
                        .allMatch(state -> state.equals("connected") || state.equals("on another node")));
        publisher = new Publisher(broker.port());
        publisher.start();
    }

    @AfterEach
    void end() {
        publisher.stop();
        one.kill();
        two.kill();
        broker.close();
        single.close();
        shared.close();
        cluster.close();
    }

    /** Publishes the numbers of each device one after the other, and counts those that the broker took. */
    private static final class Publisher {

        private final Mqtt5AsyncClient mqtt;
        private final AtomicBoolean stopped = new AtomicBoolean();
        private final AtomicInteger taken = new AtomicInteger();
        private Thread thread;

        Publisher(int port) {
            mqtt = MqttClient.builder()
                    .identifier("publisher")
                    .serverHost("127.0.0.1")
                    .serverPort(port)
                    .automaticReconnectWithDefaultConfig()
                    .useMqttVersion5()
                    .buildAsync();
            mqtt.connectWith()
                    .cleanStart(false)
                    .sessionExpiryInterval(600)
                    .send()
                    .join();
        }

        void start() {
            thread = Thread.ofVirtual().start(() -> {
                while (!stopped.get()) {
                    int next = taken.get();
                    mqtt.publishWith()
                            .topic("f/d" + next % DEVICES)
                            .payload(("{\"n\":" + next / DEVICES + "}").getBytes(StandardCharsets.UTF_8))
                            .qos(MqttQos.AT_LEAST_ONCE)
                            .send()
                            .join();
                    taken.incrementAndGet();
                    LockSupport.parkNanos(Duration.ofMillis(4).toNanos());
                }
            });
        }

        int stop() {
            stopped.set(true);
            try {
                thread.join();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
            mqtt.disconnect().exceptionally(gone -> null).join();
            return taken.get();
        }
    }

    /** While the fault lasts, so many more messages are published, if the broker takes any. */
    private void goOn(int messages) {
        int now = publisher.taken.get();
        Client.await(publisher.taken::get, taken -> taken >= now + messages, PATIENCE);
    }

    private void killed(NodeProcess node) {
        node.kill();
        goOn(150);
        node.start();
        node.ready();
        goOn(150);
    }

    /**
     * The broker that Debian 12 has keeps the sessions of those who share a subscription, and forgets until they subscribe again that
     * they do: what it takes meanwhile reaches none of them.
     */
    private void restartBroker() {
        int from = publisher.taken.get();
        broker.stop();
        Client.await(this::sharing, sharing -> !sharing);
        broker.start();
        Client.await(this::sharing, sharing -> sharing, PATIENCE);
        unshared.set(from, publisher.taken.get() + 1);
    }

    /** Whether the first node is subscribed by the inlet that both share. */
    private boolean sharing() {
        return client.get("/api/v1/inlets")
                .valueStream()
                .filter(inlet -> inlet.path("name").asString().equals("shared"))
                .allMatch(inlet -> inlet.at("/connection/state").asString().equals("connected"));
    }

    private static Map<String, List<Integer>> numbers(IntStream published) {
        Map<String, List<Integer>> numbers = new TreeMap<>();
        published.forEach(n -> numbers.computeIfAbsent("d" + n % DEVICES, device -> new ArrayList<>())
                .add(n / DEVICES));
        return numbers;
    }

    /** The numbers of each device in the order in which they came first. */
    private static Map<String, List<Integer>> firsts(Receiver receiver) {
        Map<String, Set<Integer>> firsts = new TreeMap<>();
        receiver.came().forEach(one -> {
            JsonNode body = Client.JSON.readTree(one.body());
            firsts.computeIfAbsent(body.path("d").asString(), device -> new LinkedHashSet<>())
                    .add(body.path("n").asInt());
        });
        Map<String, List<Integer>> lists = new TreeMap<>();
        firsts.forEach((device, numbers) -> lists.put(device, new ArrayList<>(numbers)));
        return lists;
    }

    private static boolean hasAll(Map<String, List<Integer>> came, Map<String, List<Integer>> wanted) {
        return came.keySet().equals(wanted.keySet())
                && came.entrySet().stream()
                        .allMatch(device -> Set.copyOf(device.getValue()).containsAll(wanted.get(device.getKey())));
    }

    /** When a device's messages around the first that came too late came in and were sent, and what the nodes told. */
    private String evidence(String device, List<Integer> numbers) {
        int late = 1;
        while (late < numbers.size() && numbers.get(late) > numbers.get(late - 1)) {
            late++;
        }
        StringBuilder evidence = new StringBuilder();
        if (late < numbers.size()) {
            int first = numbers.get(late);
            evidence.append("%d came after %d%n".formatted(first, numbers.get(late - 1)));
            database.texts("""
                    select concat_ws(' ', convert_from(m.body, 'UTF8'), m.received, m.id, 'attempt', a.number, a.at, a.verdict, a.reason)
                    from message m left join attempt a on a.message = m.id and a.received = m.received and a.lane = 'single'
                    where m.inlet = 'single' and m.device = '%s' and (convert_from(m.body, 'UTF8')::json->>'n')::int between %d and %d
                    order by m.received, m.id""".formatted(device, first - 3, numbers.get(late - 1) + 3))
                    .forEach(line -> evidence.append(line).append('\n'));
        }
        return evidence.append("one:\n")
                .append(one.tail())
                .append("\ntwo:\n")
                .append(two.tail())
                .toString();
    }

    @Test
    void whatTheBrokerTookComesOutWhateverIsKilled() {
        for (int round = 0; round < ROUNDS; round++) {
            goOn(100);
            killed(one);
            restartBroker();
            goOn(200);
            killed(two);
            broker.freeze(true);
            LockSupport.parkNanos(Duration.ofSeconds(6).toNanos()); // longer than the clients' keep-alive
            broker.freeze(false);
            goOn(200);
        }
        int taken = publisher.stop();

        Map<String, List<Integer>> wanted = numbers(IntStream.range(0, taken));
        Client.await(() -> firsts(single), came -> hasAll(came, wanted), PATIENCE);
        firsts(single)
                .forEach((device, numbers) -> assertThat(numbers)
                        .as(() -> device + "\n" + evidence(device, numbers))
                        .isSorted());
        assertThat(firsts(single)).isEqualTo(wanted);
        Map<String, List<Integer>> kept = numbers(IntStream.range(0, taken).filter(n -> !unshared.get(n)));
        Client.await(() -> firsts(shared), came -> hasAll(came, kept), PATIENCE);
        Client.await(() -> client.get("/api/v1/balance").path("missing").asInt(), missing -> missing == 0, PATIENCE);
    }
}
