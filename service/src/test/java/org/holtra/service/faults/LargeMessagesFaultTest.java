package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Messages as large as an inlet takes them, of which more wait than the heap has room for. */
@Tag("long")
class LargeMessagesFaultTest {

    private static final int HEAP_MEGABYTES = 512;
    private static final int MESSAGES = 450;
    private static final int DEVICES = 5;
    private static final Duration PATIENCE = Duration.ofMinutes(3);
    private static final String FILLING = "x".repeat(1_000_000);

    @TempDir
    private Path folder;

    private TestDatabase.Cluster cluster;
    private NodeProcess node;
    private Receiver receiver;
    private Client client;

    @BeforeEach
    void setUp() {
        cluster = TestDatabase.Cluster.make();
        node = new NodeProcess("one", folder, cluster.start().newDatabase());
        node.setHeap(HEAP_MEGABYTES);
        node.setClock(0);
        node.start();
        client = node.ready();
        receiver = Receiver.answering(200);
        client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
    }

    @AfterEach
    void tearDown() {
        node.kill();
        receiver.close();
        cluster.close();
    }

    private void adopt(String state) {
        Client.good(client.adopt("""
                inlets:
                  f: {kind: http, at: {path: f, credential: sender}, device: data.id}
                outlets:
                  free: {kind: http, state: %1$s, to: {url: "%2$s/free", timeout: 1m}}
                  ordered: {kind: http, state: %1$s, to: {url: "%2$s/ordered", timeout: 1m}}
                lanes:
                  free: {inlets: [f], outlet: free, shape: {body: {id: "${data.id}", n: "${data.n}"}}}
                  ordered: {inlets: [f], outlet: ordered, order: device, shape: {body: {id: "${data.id}", n: "${data.n}"}}}
                """.formatted(state, receiver.address())));
    }

    private String send(int number) {
        byte[] body = ("{\"id\":\"d" + number % DEVICES + "\",\"n\":" + number + ",\"filling\":\"" + FILLING + "\"}")
                .getBytes(StandardCharsets.US_ASCII);
        Client.Answer answer = client.call("POST", "/in/f", body, "Authorization", "Bearer in-token-1");
        return answer.status() == 202 ? answer.json().path("id").asString() : null;
    }

    private static Set<String> without(Set<String> wanted, Receiver receiver) {
        Set<String> missing = new HashSet<>(wanted);
        receiver.came().forEach(came -> missing.remove(came.header("Idempotency-Key")));
        return missing;
    }

    private void assertAllCame(Set<String> ids) {
        // What a slow database had it spool meanwhile comes later.
        Set<String> wanted = ids.stream()
                .flatMap(id -> Stream.of(id + ".free", id + ".ordered"))
                .collect(Collectors.toSet());
        Client.await(() -> without(wanted, receiver), Set::isEmpty, PATIENCE);
        Client.await(() -> client.get("/api/v1/balance").path("missing").asLong(), missing -> missing == 0, PATIENCE);
        assertThat(node.log()).doesNotContain("OutOfMemoryError");
    }

    @Test
    void moreThanTheHeapHoldsComesFromTheSpoolIntoTheJournalAndOutOfIt() {
        adopt("closed");
        cluster.stop();
        Set<String> ids = ConcurrentHashMap.newKeySet();
        for (int number = 0; number < MESSAGES; number++) {
            ids.add(send(number));
        }
        cluster.start();
        Client.await(
                () -> client.keyed("GET", "/api/v1/status", null, "application/json")
                        .json(),
                status -> status.at("/spools/0/messages").asInt(-1) == 0);

        adopt("open");

        assertAllCame(ids);
        assertThat(ordered().values())
                .hasSize(DEVICES)
                .allSatisfy(numbers -> assertThat(List.copyOf(numbers)).isSorted());
    }

    @Test
    void whatGoesThroughStoredMessagesHasRoomForThem() {
        Instant began = Instant.now().minusSeconds(1);
        adopt("open");
        Set<String> ids = new HashSet<>();
        for (int number = 0; number < MESSAGES; number++) {
            ids.add(send(number));
        }
        assertAllCame(ids);

        JsonNode replay = Client.good(client.post("/api/v1/replays", Map.of("lane", "free", "from", began.toString())))
                .json();
        String rehearsal = Client.good(client.post("/api/v1/lanes/ordered/rehearsals", Map.of("last", MESSAGES)))
                .json()
                .path("id")
                .asString();
        client.get("/api/v1/messages?inlet=f&limit=500&from=" + began);

        Set<String> again = ids.stream()
                .map(id -> id + ".free." + replay.path("name").asString())
                .collect(Collectors.toSet());
        Client.await(() -> without(again, receiver), Set::isEmpty, PATIENCE);
        JsonNode ended = Client.await(
                () -> client.get("/api/v1/rehearsals/" + rehearsal),
                one -> !one.path("ended").isNull(),
                PATIENCE);
        assertThat(ended.at("/counts/same").asInt()).as(ended.toString()).isEqualTo(MESSAGES);
        assertThat(node.log()).doesNotContain("OutOfMemoryError");
    }

    /** The numbers of each device, in the order in which they came for the first time. */
    private Map<String, Set<Integer>> ordered() {
        Map<String, Set<Integer>> numbers = new HashMap<>();
        for (Receiver.Came came : receiver.came()) {
            if (came.header("Idempotency-Key").endsWith(".ordered")) {
                JsonNode body = Client.JSON.readTree(came.body());
                numbers.computeIfAbsent(body.path("id").asString(), id -> new LinkedHashSet<>())
                        .add(body.path("n").asInt());
            }
        }
        return numbers;
    }

    @Test
    void manyAtOnceAreTakenOrRefusedAndTheServiceGoesOn() throws InterruptedException, ExecutionException {
        adopt("open");
        Set<String> ids = ConcurrentHashMap.newKeySet();
        try (ExecutorService senders = Executors.newFixedThreadPool(100)) {
            List<Future<?>> sent = new ArrayList<>();
            for (int i = 0; i < MESSAGES; i++) {
                int number = i;
                sent.add(senders.submit(() -> {
                    String id = Client.await(() -> send(number), one -> one != null);
                    ids.add(id);
                }));
            }
            for (Future<?> one : sent) {
                one.get();
            }
        }

        assertAllCame(ids);
    }
}
