package org.holtra.service.faults;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/**
 * Two nodes under load, their clocks a minute apart, and then one by itself, while things break. Afterwards every acknowledged message has come to both its destinations, each
 * device's in order where that was asked, doubles under the same key, and everything is accounted for. {@code bench/faults} runs it
 * for long.
 */
abstract class Faults {

    private static final int DEVICES = 12;
    private static final int ROUNDS = Integer.getInteger("holtra.faults.rounds", 1);
    /** So many times two faults follow one another at once, chosen at random. */
    private static final int PAIRS = Integer.getInteger("holtra.faults.pairs", 0);

    /** Only faults whose names hold this. */
    private static final String ONLY = System.getProperty("holtra.faults.only", "");

    private static final long SEED = Long.getLong("holtra.faults.seed", 5);
    private static final int SKEW_SECONDS = 60;
    private static final Duration STANDSTILL = Duration.ofMinutes(4);

    /** Something that breaks, and is mended again before the next. */
    private interface Fault {
        void happen() throws InterruptedException;
    }

    @TempDir
    private Path folder;

    private final Random random = new Random(SEED);
    private TestDatabase.Cluster cluster;
    private TestDatabase database;
    private HostileReceiver receiver;
    private NodeProcess one;
    private NodeProcess two;
    private boolean alone;
    private Client client;
    private Senders senders;

    /** @param nodes 2, or 1: a node by itself sends what stands in lines from memory */
    private void setUp(int nodes) {
        alone = nodes == 1;
        cluster = TestDatabase.Cluster.make();
        database = cluster.start().newDatabase();
        receiver = new HostileReceiver();
        one = new NodeProcess("one", folder, database);
        two = new NodeProcess("two", folder, database);
        one.setClock(0);
        two.setClock(-SKEW_SECONDS);
        one.start();
        client = one.ready();
        client.save("f-in", Map.of("form", "bearer", "token", "in-token"));
        Client.good(client.adopt("""
                inlets:
                  f: {kind: http, at: {path: f, credential: f-in}, device: data.id}
                outlets:
                  ordered: {kind: http, to: {url: "%1$s/ordered", timeout: 500ms}}
                  free: {kind: http, to: {url: "%1$s/free", timeout: 500ms, concurrency: 4}}
                lanes:
                  ordered: {inlets: [f], outlet: ordered, order: device, retry: {first: 50ms, longest: 500ms}}
                  free: {inlets: [f], outlet: free, retry: {first: 50ms, longest: 500ms}}
                """.formatted(receiver.address())));
        if (!alone) {
            two.start();
            two.ready();
        }
        senders = new Senders(DEVICES, tries -> (alone || tries % 2 == 0 ? one : two).address());
    }

    @AfterEach
    void tearDown() {
        senders.stop();
        one.kill();
        if (!alone) {
            two.kill();
        }
        receiver.close();
        cluster.close();
    }

    private NodeProcess anyNode() {
        return alone || random.nextBoolean() ? one : two;
    }

    private Map<String, Fault> faults() {
        Map<String, Fault> faults = new HashMap<>();
        faults.put("a node is killed", () -> {
            NodeProcess victim = anyNode();
            victim.kill();
            goOn(500);
            victim.start();
            victim.ready();
        });
        faults.put("a node starts before its database", () -> {
            NodeProcess victim = anyNode();
            victim.kill();
            cluster.stop();
            victim.start();
            goOn(3_000);
            cluster.start();
            victim.ready();
        });
        faults.put("connections are cut again and again under a burst", () -> {
            for (int i = 0; i < 6; i++) {
                senders.burst(true);
                goOn(300);
                cutConnections();
                goOn(random.nextInt(600));
                cutConnections();
                senders.burst(false);
                goOn(random.nextInt(3_000));
            }
        });
        faults.put("a node is killed while its spool is drained", () -> {
            NodeProcess victim = anyNode();
            cluster.stop();
            senders.burst(true);
            goOn(4_000);
            senders.burst(false);
            cluster.start();
            goOn(300 + random.nextInt(900));
            victim.kill();
            victim.start();
            victim.ready();
        });
        faults.put("the database is killed", () -> {
            cluster.kill();
            goOn(1_500);
            cluster.start();
        });
        faults.put("the database hangs", () -> {
            cluster.freeze(true);
            goOn(4_500);
            cluster.freeze(false);
        });
        faults.put("the database's connections are cut", this::cutConnections);
        faults.put("a node is paused past its lease", () -> {
            NodeProcess victim = anyNode();
            victim.freeze(true);
            goOn(8_500);
            victim.freeze(false);
        });
        faults.put("the clock of a node jumps", () -> {
            NodeProcess victim = anyNode();
            victim.setClock(random.nextBoolean() ? 3_600 : -3_600);
            goOn(3_000);
            victim.setClock(SKEW_SECONDS);
        });
        faults.put("the disk of the spool is full", () -> {
            one.limitFiles(0);
            cluster.stop();
            goOn(2_500);
            one.limitFiles(-1);
            cluster.start();
        });
        for (HostileReceiver.Mood mood : HostileReceiver.Mood.values()) {
            if (mood != HostileReceiver.Mood.WELL && !alone) {
                faults.put("the destination is " + mood, () -> {
                    receiver.be(mood);
                    goOn(1_000);
                    receiver.be(HostileReceiver.Mood.WELL);
                });
            }
        }
        faults.keySet().removeIf(name -> !name.contains(ONLY));
        return faults;
    }

    private void cutConnections() {
        database.texts("select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database()"
                + " and pid != pg_backend_pid() and usename = current_user");
    }

    private static void goOn(long millis) throws InterruptedException {
        // This is how long something stays broken, not a wait for something to happen.
        Thread.sleep(millis);
    }

    /** 2, or 1. */
    abstract int nodes();

    @Test
    void whateverBreaksNothingIsLostAndOrderHolds() throws InterruptedException {
        setUp(nodes());
        Map<String, Fault> faults = faults();
        int happened = 0;
        for (int round = 0; round < ROUNDS; round++) {
            List<String> names = new ArrayList<>(faults.keySet());
            Collections.sort(names);
            Collections.shuffle(names, random);
            for (String name : names) {
                happens(name, faults.get(name));
                happened++;
            }
        }
        List<String> names = new ArrayList<>(faults.keySet());
        Collections.sort(names);
        for (int pair = 0; pair < PAIRS; pair++) {
            String first = names.get(random.nextInt(names.size()));
            String second = names.get(random.nextInt(names.size()));
            happens(first + ", then at once " + second, () -> {
                faults.get(first).happen();
                faults.get(second).happen();
            });
            happened += 2;
        }
        senders.stop();
        check();
        System.out.printf(
                "%d faults, %d messages acknowledged, %d refused or unanswered, %d requests at the destination%n",
                happened, senders.count(), senders.refused(), receiver.came().size());
    }

    private void happens(String name, Fault fault) throws InterruptedException {
        int before = senders.count();
        System.out.printf("%s, with %d messages acknowledged%n", name, before);
        fault.happen();
        // A slow machine, or a database that makes its tables good after it was killed, takes its time.
        Client.await(senders::count, count -> count > before + DEVICES, STANDSTILL);
        assertThat(database.texts("select 'there again'")).isNotEmpty();
    }

    private void check() {
        settle();
        List<HostileReceiver.Came> came = receiver.came();
        for (String lane : List.of("ordered", "free")) {
            List<HostileReceiver.Came> here =
                    came.stream().filter(one -> one.lane().equals(lane)).toList();
            Set<String> keys = here.stream()
                    .filter(HostileReceiver.Came::taken)
                    .map(HostileReceiver.Came::key)
                    .collect(Collectors.toSet());
            assertThat(without(senders.acknowledged().stream().map(message -> message.id() + "." + lane), keys))
                    .as(() -> "acknowledged messages that did not come by lane " + lane + "\n" + evidence())
                    .isEmpty();
            Map<String, Set<String>> messages = here.stream()
                    .filter(one -> one.device() != null)
                    .collect(Collectors.groupingBy(
                            HostileReceiver.Came::key,
                            Collectors.mapping(one -> one.device() + " " + one.number(), Collectors.toSet())));
            assertThat(messages.values()).as("one message under one key").allMatch(set -> set.size() == 1);
        }
        assertOrder(came);
        JsonNode balance = client.get("/api/v1/balance?from=" + Instant.now().minusSeconds(7_200));
        assertThat(balance.path("missing").asLong()).as(balance.toString()).isZero();
        assertThat(client.get("/api/v1/balance/differences")).isEmpty();
        assertAcknowledgementsCounted(balance);
        assertThat(database.texts("select lane, sum(messages) from backlog group by lane having sum(messages) != 0"))
                .as("counts of what waits")
                .isEmpty();
    }

    private static Set<String> without(Stream<String> all, Set<String> those) {
        return all.filter(one -> !those.contains(one)).collect(Collectors.toCollection(LinkedHashSet::new));
    }

    /** Whatever was killed: each acknowledgement is counted, and none twice. */
    private void assertAcknowledgementsCounted(JsonNode balance) {
        Set<String> noted = Set.copyOf(database.texts("""
                select encode(substring(a.ids from n * 16 + 1 for 16), 'hex')::uuid::text
                from acknowledged a, generate_series(0, length(a.ids) / 16 - 1) n"""));
        assertThat(without(senders.acknowledged().stream().map(Senders.Acknowledged::id), noted))
                .as("acknowledged messages that are not noted")
                .isEmpty();
        assertThat(database.texts("select sum(length(ids) / 16) from acknowledged"))
                .as("acknowledgements noted, each once")
                .containsExactly(Integer.toString(noted.size()));
        assertThat(database.texts("select sum(count) from tally where what = 'ACKNOWLEDGED'"))
                .as("acknowledgements counted")
                .containsExactly(Integer.toString(noted.size()));
        assertThat(balance.at("/intake/acknowledged").asLong()).isEqualTo(noted.size());
    }

    /** Waits until nothing waits any more, for as long as what waits gets less. */
    private void settle() {
        Instant ended = Instant.now();
        long left = Long.MAX_VALUE;
        while (left > 0) {
            long before = left;
            try {
                left = Client.await(() -> left(ended), now -> now < before, STANDSTILL);
            } catch (AssertionError e) {
                throw new AssertionError("%d stay%n%s".formatted(before, evidence()), e);
            }
        }
    }

    /** What the table, the nodes and their logs say of what stays. */
    private String evidence() {
        StringBuilder evidence = new StringBuilder();
        database.texts("""
                select concat_ws(' ', lane, 'owner', owner, n.name, 'claimed', claim is not null, 'due', min(due), max(due), 'attempts',
                  max(attempts), count(*))
                from owed left join node n on n.id = owner group by lane, owner, n.name, claim is not null""").forEach(line -> evidence.append(line).append('\n'));
        for (NodeProcess node : alone ? List.of(one) : List.of(one, two)) {
            Client there = node.ready();
            evidence.append(there.keyed("GET", "/api/v1/status", null, "application/json")
                            .body())
                    .append('\n')
                    .append(there.keyed("GET", "/api/v1/outlets", null, "application/json")
                            .body())
                    .append("\nits log ends:\n")
                    .append(node.tail())
                    .append("\nits threads:\n")
                    .append(node.threads())
                    .append('\n');
        }
        return evidence.toString();
    }

    /** What waits, by reports that were made after the time given; the most there can be as long as they are not there. */
    private long left(Instant ended) {
        Client.Answer answer = client.keyed("GET", "/api/v1/status", null, "application/json");
        if (answer.status() != 200 || answer.json().path("databaseAway").asBoolean()) {
            return Long.MAX_VALUE;
        }
        if (!Instant.parse(answer.json().path("countedAt").asString()).isAfter(ended)) {
            return Long.MAX_VALUE;
        }
        long sum = answer.json().path("waiting").asLong();
        for (JsonNode spool : answer.json().path("spools")) {
            if (!Instant.parse(spool.path("at").asString()).isAfter(ended)) {
                return Long.MAX_VALUE;
            }
            sum += spool.path("messages").asLong();
        }
        return sum;
    }

    /**
     * The order is that of commits. What a node had spooled is committed when it is drained, so it is each node's messages
     * of a device that must come in the order they were acknowledged.
     */
    private void assertOrder(List<HostileReceiver.Came> came) {
        Map<String, Senders.Acknowledged> acknowledged = senders.acknowledged().stream()
                .collect(Collectors.toMap(message -> message.id() + ".ordered", message -> message));
        Map<String, Set<Integer>> firsts = new TreeMap<>();
        for (HostileReceiver.Came one : came) {
            Senders.Acknowledged message = acknowledged.get(one.key());
            if (message != null && one.device() != null) {
                firsts.computeIfAbsent(one.device() + " at " + message.node(), device -> new LinkedHashSet<>())
                        .add(one.number());
            }
        }
        firsts.forEach((device, numbers) -> {
            List<Integer> inOrderOfArrival = new ArrayList<>(numbers);
            assertThat(inOrderOfArrival)
                    .as(() -> device + "; " + overtaken(device, inOrderOfArrival))
                    .isSorted();
        });
    }

    /** The traces of the first message that came too late and of the one that went past it. */
    private String overtaken(String device, List<Integer> numbers) {
        for (int i = 1; i < numbers.size(); i++) {
            if (numbers.get(i) < numbers.get(i - 1)) {
                return numbers.get(i) + " came after " + numbers.get(i - 1) + ": " + trace(device, numbers.get(i))
                        + "\n" + trace(device, numbers.get(i - 1));
            }
        }
        return "in order";
    }

    private String trace(String device, int number) {
        return senders.acknowledged().stream()
                .filter(message ->
                        message.number() == number && device.equals(message.device() + " at " + message.node()))
                .map(message -> client.get("/api/v1/messages/" + message.id()).toString())
                .collect(Collectors.joining("\n"));
    }
}
