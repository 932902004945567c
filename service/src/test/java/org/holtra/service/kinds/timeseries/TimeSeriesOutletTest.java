package org.holtra.service.kinds.timeseries;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver.Reply;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Deliveries that are written as lines to a database that speaks HTTP. */
class TimeSeriesOutletTest extends SharedServiceTest {

    private void adopt(String more) {
        client.save("historian", java.util.Map.of("form", "bearer", "token", "historian-1"));
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                outlets:
                  o: {kind: timeseries, to: {url: "%s/write", credential: historian, measurement: climate}%s}
                lanes:
                  l:
                    inlets: [i]
                    outlet: o
                    order: device
                    retry: {first: 100ms}
                    shape: {body: {tags: {device: "${device.key}"}, fields: {t: "${data.t}"}, time: "${meta.eventTime}"}}
                """.formatted(receiver.address(), more)));
    }

    private String send(String device, Object value, int second) {
        return client.send(
                "i", "{\"id\":\"" + device + "\",\"t\":" + value + ",\"at\":\"2026-05-01T10:00:0" + second + "Z\"}");
    }

    @Test
    void aPointIsALineWithItsTimeInNanoseconds() {
        adopt("");

        JsonNode trace = becomes(send("a b", 4.5, 1), "delivered");

        assertThat(receiver.came().getFirst().body()).isEqualTo("climate,device=a\\ b t=4.5 1777629601000000000");
        assertThat(receiver.came().getFirst().header("Authorization")).isEqualTo("Bearer historian-1");
        assertThat(receiver.came().getFirst().header("Content-Type")).startsWith("text/plain");
        assertThat(trace.toString()).contains("/write");
    }

    @Test
    void manyPointsStandInOneRequest() {
        adopt(", batch: {messages: 10, wait: 500ms}");

        List<String> ids = List.of(send("a", 1, 1), send("b", 2, 2), send("c", 3, 3));

        ids.forEach(id -> becomes(id, "delivered"));
        assertThat(receiver.came().stream().flatMap(one -> one.body().lines()))
                .containsExactlyInAnyOrder(
                        "climate,device=a t=1 1777629601000000000",
                        "climate,device=b t=2 1777629602000000000",
                        "climate,device=c t=3 1777629603000000000");
    }

    @Test
    void theKeysOfManyPointsAreNotSentInAHeader() {
        adopt(", batch: {messages: 10, wait: 500ms}");

        List.of(send("a", 1, 1), send("b", 2, 2)).forEach(id -> becomes(id, "delivered"));

        assertThat(receiver.came().getFirst().header("Holtra-Deliveries")).isNull();
        assertThat(receiver.came().getFirst().header("Idempotency-Key")).isNotEmpty();
    }

    @Test
    void ofARequestThatIsRefusedOnlyTheLineAtFaultIsDead() {
        adopt(", batch: {messages: 10, wait: 500ms}");
        ConcurrentLinkedQueue<String> written = new ConcurrentLinkedQueue<>();
        receiver.answer(number -> {
            String body = receiver.came().get(number - 1).body();
            if (body.contains("device=b")) {
                return new Reply(400, "partial write: field type conflict");
            }
            body.lines().forEach(written::add);
            return new Reply(204, "");
        });

        List<String> ids = List.of(send("a", 1, 1), send("b", 2, 2), send("c", 3, 3));

        becomes(ids.getFirst(), "delivered");
        becomes(ids.getLast(), "delivered");
        assertThat(becomes(ids.get(1), "dead").toString()).contains("partial write: field type conflict");
        assertThat(written).anyMatch(line -> line.contains("device=a")).anyMatch(line -> line.contains("device=c"));
    }

    @Test
    void whatBecameOfEachSeriesIsCounted() {
        adopt("");
        receiver.answer(
                number -> new Reply(receiver.came().get(number - 1).body().contains("device=y") ? 400 : 204, ""));
        List<String> ids = List.of(send("x", 1, 1), send("y", 2, 2), send("x", 3.5, 3));
        becomes(ids.getFirst(), "delivered");
        becomes(ids.get(1), "dead");
        becomes(ids.getLast(), "delivered");

        JsonNode x = Client.await(() -> tag("x"), tag -> tag.path("written").asInt() == 2);
        JsonNode y = Client.await(() -> tag("y"), tag -> tag.path("refused").asInt() == 1);

        assertThat(x.path("found").asInt()).isEqualTo(2);
        assertThat(x.path("wanted").asInt()).isEqualTo(2);
        assertThat(x.path("last").asString()).isEqualTo("2026-05-01T10:00:03Z");
        assertThat(x.path("value").asDouble()).isEqualTo(3.5);
        assertThat(y.path("written").asInt()).isZero();
        assertThat(y.path("last").isNull()).isTrue();
    }

    private JsonNode tag(String device) {
        return client.get("/api/v1/outlets/o/tags")
                .path("tags")
                .valueStream()
                .filter(tag -> tag.path("name").asString().equals("climate,device=" + device + " t"))
                .findFirst()
                .orElse(Client.JSON.nullNode());
    }

    @Test
    void whatComesLateKeepsItsTimeAndItsOrder() {
        adopt("");
        receiver.answer(number -> new Reply(503, ""));
        for (int second = 1; second <= 4; second++) {
            send("a", second, second);
        }
        Client.await(() -> receiver.came().size(), size -> size > 0);
        int before = receiver.came().size();
        receiver.answer(number -> new Reply(204, ""));

        List<String> lines = Client.await(
                () -> receiver.came().stream()
                        .skip(before)
                        .map(one -> one.body())
                        .distinct()
                        .toList(),
                all -> all.size() >= 4);
        assertThat(lines.stream().filter(line -> line.contains("t=4")).toList())
                .containsExactly("climate,device=a t=4 1777629604000000000");
        assertThat(lines.indexOf("climate,device=a t=3 1777629603000000000"))
                .isLessThan(lines.indexOf("climate,device=a t=4 1777629604000000000"));
    }

    @Test
    void aPointWithoutAValueIsDeadAndSaysWhy() {
        adopt("");

        assertThat(becomes(send("a", "null", 1), "dead").toString()).contains("no field that has a value");
    }
}
