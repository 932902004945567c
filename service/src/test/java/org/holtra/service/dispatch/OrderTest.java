package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class OrderTest {

    private static final int DEVICES = 6;

    private TestService service;
    private Receiver receiver;

    @BeforeEach
    void setUp() {
        service = TestService.start(TestDatabase.fresh());
        receiver = Receiver.answering(200);
        service.client().save("o-in", Map.of("form", "bearer", "token", "in-token-1"));
        adopt("device");
    }

    @AfterEach
    void tearDown() {
        service.close();
        receiver.close();
    }

    private void adopt(String order) {
        Client.good(service.client().adopt("""
                inlets:
                  o: {kind: http, at: {path: o, credential: o-in}, device: data.id}
                outlets:
                  o: {kind: http, to: {url: "%s/", timeout: 400ms, concurrency: 8}}
                lanes:
                  o: {inlets: [o], outlet: o, order: %s, retry: {first: 30ms, factor: 2, longest: 100ms}}
                """.formatted(receiver.address(), order)));
    }

    /** Fails three in ten: refuses for now, drops the connection, or answers nothing in time. */
    private static Receiver.Reply unreliable(int number) {
        int dice = new Random(number * 7919L).nextInt(10);
        return switch (dice) {
            case 0 -> new Receiver.Reply(503, "busy");
            case 1 -> new Receiver.Reply(0, "");
            case 2 -> new Receiver.Reply(429, "slow down", "Retry-After", "0");
            default -> new Receiver.Reply(200, "{}");
        };
    }

    private static void send(Client client, int number) {
        client.send("o", "{\"id\":\"d" + number % DEVICES + "\",\"n\":" + number + "}");
    }

    /** What each device's messages were, in the order in which each came for the first time. */
    private Map<String, List<Integer>> came() {
        Map<String, List<Integer>> byDevice = new LinkedHashMap<>();
        for (Receiver.Came came : receiver.came()) {
            JsonNode read = Client.JSON.readTree(came.body());
            JsonNode body = read.isArray() ? read.get(0) : read;
            List<Integer> numbers = byDevice.computeIfAbsent(body.path("id").asString(), id -> new ArrayList<>());
            if (!numbers.contains(body.path("n").asInt())) {
                numbers.add(body.path("n").asInt());
            }
        }
        return byDevice;
    }

    private void assertOrder(int messages) {
        assertThat(came()).hasSize(DEVICES).allSatisfy((device, numbers) -> {
            int of = Integer.parseInt(device.substring(1));
            assertThat(numbers)
                    .isEqualTo(IntStream.range(0, messages)
                            .filter(n -> n % DEVICES == of)
                            .boxed()
                            .toList());
        });
        assertThat(service.client().get("/api/v1/balance").path("missing").asLong())
                .isZero();
    }

    @Test
    void keepsTheOrderOfEachDeviceUnderRetries() {
        receiver.answer(OrderTest::unreliable);

        IntStream.range(0, 120).forEach(number -> send(service.client(), number));
        service.client().awaitNothingWaits();

        assertOrder(120);
        assertThat(receiver.came()).hasSizeGreaterThan(120);
    }

    @Test
    void oneDevicesTroubleHoldsUpNoOther() {
        receiver.answer(number -> {
            String body = receiver.came().get(number - 1).body();
            return new Receiver.Reply(body.contains("\"d0\"") ? 503 : 200, "{}");
        });

        IntStream.range(0, 60).forEach(number -> send(service.client(), number));

        service.client().awaitWaiting(10);
        assertThat(came().get("d0")).containsExactly(0);
        receiver.answer(number -> new Receiver.Reply(200, "{}"));
        service.client().awaitNothingWaits();
        assertOrder(60);
    }

    @Test
    void keepsTheOrderAcrossARestart() {
        receiver.answer(number -> new Receiver.Reply(503, ""));
        IntStream.range(0, 60).forEach(number -> send(service.client(), number));
        service.close();
        service = service.again();
        receiver.answer(OrderTest::unreliable);
        IntStream.range(60, 120).forEach(number -> send(service.client(), number));
        service.client().awaitNothingWaits();

        assertOrder(120);
    }

    @Test
    void keepsTheOrderAcrossNodes() {
        receiver.answer(OrderTest::unreliable);
        try (TestService other = service.beside()) {
            IntStream.range(0, 120).forEach(number -> send(number % 5 < 2 ? other.client() : service.client(), number));
            service.client().awaitNothingWaits();
        }
        IntStream.range(120, 180).forEach(number -> send(service.client(), number));
        service.client().awaitNothingWaits();

        assertOrder(180);
    }

    /** More of each device waits than is claimed at a time, and of a handful only what comes before the failure is tried. */
    @Test
    void keepsTheOrderOfWhatWasTakenInHandAndNotTried() {
        adoptInBatches("closed");
        int messages = 100;
        service.client()
                .send(
                        "o",
                        IntStream.range(0, DEVICES * messages)
                                .mapToObj(number -> "{\"id\":\"d" + number % DEVICES + "\",\"n\":" + number + "}")
                                .collect(Collectors.joining(",", "{\"parts\":[", "]}")));
        receiver.answer(number -> new Receiver.Reply(number % 4 == 1 ? 503 : 200, "{}"));

        adoptInBatches("open");
        service.client().awaitNothingWaits();

        Map<String, List<Integer>> byDevice = came();
        assertThat(byDevice)
                .hasSize(DEVICES)
                .allSatisfy((device, numbers) ->
                        assertThat(numbers).as(device).hasSize(messages).isSorted());
    }

    private void adoptInBatches(String state) {
        Client.good(service.client().adopt("""
                inlets:
                  o: {kind: http, at: {path: o, credential: o-in}, parts: data.parts, device: data.id}
                outlets:
                  o:
                    kind: http
                    state: %s
                    to: {url: "%s/", concurrency: 2}
                    batch: {messages: 6, bytes: 20, wait: 20ms}
                lanes:
                  o: {inlets: [o], outlet: o, order: device, retry: {first: 30ms, longest: 60ms}}
                """.formatted(state, receiver.address())));
    }

    @Test
    void whatWaitsIsPutInOrderWhenALaneIsAskedForIt() {
        adopt("none");
        receiver.answer(number -> new Receiver.Reply(503, ""));
        IntStream.range(0, 30).forEach(number -> send(service.client(), number));
        Client.await(() -> receiver.came().size(), size -> size >= 30);

        adopt("device");
        int before = receiver.came().size();
        Client.await(() -> receiver.came().size(), size -> size >= before + 20);
        receiver.answer(number -> new Receiver.Reply(200, "{}"));
        service.client().awaitNothingWaits();

        Map<String, List<Integer>> delivered = new LinkedHashMap<>();
        receiver.came().reversed().stream().limit(30).forEach(came -> {
            JsonNode body = Client.JSON.readTree(came.body());
            delivered
                    .computeIfAbsent(body.path("id").asString(), id -> new ArrayList<>())
                    .addFirst(body.path("n").asInt());
        });
        assertThat(delivered.values()).allSatisfy(numbers -> assertThat(numbers).isSorted());
    }
}
