package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class DeadCountTest extends ServiceTest {

    /** What is counted where letters change, and what is there. */
    private List<List<String>> counts() {
        service.bean(DeadLetters.class).addUp();
        return List.of(
                service.database()
                        .texts("select lane || ' ' || sum(letters) from dead_count group by lane having"
                                + " sum(letters) != 0 order by lane"),
                service.database()
                        .texts("select lane || ' ' || count(*) from dead_letter where dropped_until is null"
                                + " group by lane order by lane"));
    }

    private void assertCounted(int letters) {
        Client.await(() -> client.get("/api/v1/dead").path("total").asInt(), total -> total == letters);
        List<List<String>> counts = counts();
        assertThat(counts.getFirst()).isEqualTo(counts.getLast());
    }

    @Test
    void deadLettersAreCountedWhereTheyChange() {
        receiver.answer(number -> new Receiver.Reply(400, ""));
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  a: {inlets: [s], outlet: s}
                  b: {inlets: [s], outlet: s, pick: data.n > 1}
                """.formatted(receiver.address())));
        for (int number = 0; number < 4; number++) {
            client.send("s", "{\"id\":\"d\",\"n\":%d}".formatted(number));
        }
        assertCounted(6);

        var dropped = Client.good(client.post("/api/v1/dead/drop", Map.of("lane", "b")))
                .json();
        assertCounted(4);
        Client.good(client.post("/api/v1/jobs/" + dropped.at("/job/id").asString() + "/undo", Map.of()));
        assertCounted(6);
        receiver.answer(number -> new Receiver.Reply(200, ""));
        Client.good(client.post("/api/v1/dead/retry", Map.of("lane", "a")));
        assertCounted(2);
        assertThat(client.get("/api/v1/dead").path("groups").toString()).contains("\"lane\":\"b\"", "\"count\":2");
    }
}
