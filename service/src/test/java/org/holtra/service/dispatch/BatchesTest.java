package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.IntStream;
import java.util.stream.StreamSupport;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Several messages in one request. */
class BatchesTest extends SharedServiceTest {

    private void adopt(String batch, String order) {
        Client.good(client.adopt("""
                inlets:
                  b: {kind: http, at: {path: b, credential: sender}, device: data.id}
                outlets:
                  b:
                    kind: http
                    to: {url: "%s/", concurrency: 1}
                    batch: %s
                lanes:
                  b: {inlets: [b], outlet: b, order: %s, retry: {first: 50ms, longest: 100ms}}
                """.formatted(receiver.address(), batch, order)));
    }

    private List<String> send(int messages) {
        return IntStream.range(0, messages)
                .mapToObj(i -> client.send("b", "{\"id\":\"d" + i + "\",\"n\":" + i + "}"))
                .toList();
    }

    private List<JsonNode> delivered(List<String> ids) {
        return ids.stream()
                .map(id -> Client.await(
                        () -> client.trace(id), trace -> Client.state(trace).equals("delivered")))
                .toList();
    }

    private static List<Integer> numbers(Receiver.Came came) {
        return StreamSupport.stream(Client.JSON.readTree(came.body()).spliterator(), false)
                .map(one -> one.path("n").asInt())
                .toList();
    }

    @Test
    void messagesGoTogetherOnceThereAreEnough() {
        adopt("{messages: 5, wait: 1m}", "none");

        List<String> ids = send(10);

        List<JsonNode> traces = delivered(ids);
        assertThat(receiver.came()).hasSize(2);
        Receiver.Came first = receiver.came().getFirst();
        assertThat(numbers(first)).containsExactly(0, 1, 2, 3, 4);
        assertThat(first.header("Content-Type")).startsWith("application/json");
        assertThat(first.header("Idempotency-Key")).startsWith("batch.");
        assertThat(first.header("Holtra-Deliveries"))
                .isEqualTo(String.join(
                        ", ", ids.subList(0, 5).stream().map(id -> id + ".b").toList()));
        JsonNode batch = traces.get(2).at("/lanes/0/attempts/0/request/batch");
        assertThat(batch.path("messages").asInt()).isEqualTo(5);
        assertThat(batch.path("number").asInt()).isEqualTo(3);
    }

    @Test
    void theFirstWaitsNoLongerThanItMay() {
        adopt("{messages: 1000, wait: 300ms, as: lines}", "none");

        delivered(send(3));

        assertThat(receiver.came()).hasSizeLessThanOrEqualTo(3);
        assertThat(String.join(
                        "", receiver.came().stream().map(Receiver.Came::body).toList()))
                .isEqualTo("{\"id\":\"d0\",\"n\":0}\n{\"id\":\"d1\",\"n\":1}\n{\"id\":\"d2\",\"n\":2}\n");
        assertThat(receiver.came().getFirst().header("Content-Type")).isEqualTo("application/x-ndjson");
    }

    @Test
    void noRequestHoldsMoreBytesThanItMay() {
        adopt("{messages: 6, bytes: 40, wait: 1m}", "none");

        delivered(send(6));

        assertThat(receiver.came()).hasSize(3);
        assertThat(receiver.came()).allSatisfy(came -> assertThat(numbers(came)).hasSize(2));
    }

    @Test
    void ofABatchThatIsRefusedAsAWholeOnlyTheBadMessageDies() {
        adopt("{messages: 8, wait: 1m}", "none");
        receiver.answer(number ->
                new Receiver.Reply(numbers(receiver.came().get(number - 1)).contains(5) ? 422 : 200, "{}"));

        List<String> ids = send(8);

        JsonNode dead = Client.await(
                () -> client.trace(ids.get(5)), trace -> Client.state(trace).equals("dead"));
        assertThat(dead.at("/lanes/0/attempts")).hasSize(4);
        List<String> others = new ArrayList<>(ids);
        others.remove(5);
        delivered(others);
        assertThat(receiver.came()).hasSize(7);
    }

    @Test
    void theAnswerTellsWhatBecameOfEach() {
        adopt("{messages: 3, wait: 1m, answers: answer.body.results}", "none");
        receiver.answer(number -> number == 1
                ? new Receiver.Reply(207, "{\"results\":[{\"status\":200},{\"status\":400},{\"status\":503}]}")
                : new Receiver.Reply(200, "{\"results\":[{\"status\":200}]}"));

        List<String> ids = send(3);

        delivered(List.of(ids.get(0)));
        Client.await(
                () -> client.trace(ids.get(1)), trace -> Client.state(trace).equals("dead"));
        JsonNode retried = Client.await(
                () -> client.trace(ids.get(2)),
                trace -> trace.at("/lanes/0/attempts").size() >= 1);
        assertThat(retried.at("/lanes/0/attempts/0/code").asString()).isEqualTo("503");
        assertThat(retried.at("/lanes/0/attempts/0/verdict").asString()).isEqualTo("try later");
    }

    @Test
    void anAnswerThatDoesNotTellOfEachIsNoAnswer() {
        adopt("{messages: 2, wait: 1m, answers: answer.body.results}", "none");
        receiver.answer(number -> new Receiver.Reply(200, number == 1 ? "{}" : "{\"results\":[{},{}]}"));

        JsonNode trace = delivered(send(2)).getFirst();

        assertThat(trace.at("/lanes/0/attempts/0/reason").asString())
                .isEqualTo(
                        "the answer does not tell what became of each message: `answer.body.results` gives no list of"
                                + " as many");
    }

    @Test
    void whatNobodyAnsweredGoesAgainWithTheSameBytesUnderTheSameKey() {
        adopt("{messages: 4, wait: 1m}", "none");
        receiver.answer(number -> new Receiver.Reply(number == 1 ? 0 : 200, "{}"));

        delivered(send(4));

        List<Receiver.Came> whole = receiver.came().stream()
                .filter(came -> numbers(came).size() == 4)
                .toList();
        Receiver.Came first = receiver.came().getFirst();
        assertThat(whole).isNotEmpty().allSatisfy(came -> {
            assertThat(came.body()).isEqualTo(first.body());
            assertThat(came.header("Idempotency-Key")).isEqualTo(first.header("Idempotency-Key"));
        });
        assertThat(receiver.came().stream()
                        .flatMap(
                                came -> List.of(came.header("Holtra-Deliveries").split(", ")).stream())
                        .distinct())
                .hasSize(4);
    }

    @Test
    void aBatchHoldsOneMessageOfADeviceWhereOrderIsKept() {
        adopt("{messages: 10, wait: 200ms}", "device");
        for (int i = 0; i < 12; i++) {
            client.send("b", "{\"id\":\"d" + i % 3 + "\",\"n\":" + i + "}");
        }

        Client.await(
                () -> receiver.came().stream()
                        .mapToInt(came -> numbers(came).size())
                        .sum(),
                sum -> sum == 12);

        Map<Integer, List<Integer>> perDevice = new HashMap<>();
        for (Receiver.Came came : receiver.came()) {
            List<Integer> numbers = numbers(came);
            assertThat(numbers.stream().map(n -> n % 3)).doesNotHaveDuplicates();
            numbers.forEach(n ->
                    perDevice.computeIfAbsent(n % 3, d -> new ArrayList<>()).add(n));
        }
        assertThat(perDevice.keySet()).isEqualTo(Set.of(0, 1, 2));
        assertThat(perDevice.values()).allSatisfy(numbers -> assertThat(numbers).isSorted());
    }

    @Test
    void aContentThatCannotStandInTheBatchDiesWithTheReason() {
        Client.good(client.adopt("""
                inlets:
                  b: {kind: http, at: {path: b, credential: sender}, device: data.id}
                outlets:
                  b: {kind: http, to: {url: "%s/"}, batch: {messages: 2, wait: 100ms}}
                lanes:
                  b: {inlets: [b], outlet: b, shape: {format: text, body: "n is ${data.n}"}}
                """.formatted(receiver.address())));

        String id = send(1).getFirst();

        JsonNode dead = Client.await(
                () -> client.trace(id), trace -> Client.state(trace).equals("dead"));
        assertThat(dead.at("/lanes/0/reason").asString()).contains("its outlet sends JSON arrays");
        assertThat(receiver.came()).isEmpty();
    }
}
