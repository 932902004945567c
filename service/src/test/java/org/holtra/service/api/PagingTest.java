package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Every list that grows is read to its end by giving the {@code next} of one answer as the {@code after} of the next. */
class PagingTest extends ServiceTest {

    @BeforeEach
    void adopt() {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                outlets:
                  o: {kind: http, to: {url: "%s/"}}
                lanes:
                  l: {inlets: [i], outlet: o}
                lookouts:
                  frost: {inlets: [i], value: data.wet, below: {on: 0, off: 1.5}, lateness: 1s}
                """.formatted(receiver.address())));
    }

    private List<String> read(String path, String list, String id, int limit) {
        List<String> read = new ArrayList<>();
        String after = "";
        do {
            JsonNode page = client.get(path + "?limit=" + limit + after);
            assertThat(page.path(list).size()).isBetween(0, limit);
            page.path(list).forEach(one -> read.add(one.path(id).asString()));
            after = page.path("next").isNull()
                    ? null
                    : "&after=" + URLEncoder.encode(page.path("next").asString(), StandardCharsets.UTF_8);
        } while (after != null);
        return read;
    }

    private void comesWholePageByPage(String path, String list, String id, int count) {
        List<String> atOnce = read(path, list, id, Paging.MOST);

        assertThat(atOnce).hasSize(count).doesNotHaveDuplicates();
        assertThat(read(path, list, id, 2)).isEqualTo(atOnce);
        assertThat(read(path, list, id, 1)).isEqualTo(atOnce);
    }

    private void send(String device, int minute, double wet) {
        client.send("i", "{\"id\":\"%s\",\"at\":\"2026-04-12T03:%02d:00Z\",\"wet\":%s}".formatted(device, minute, wet));
    }

    @Test
    void deadLettersAndTheJobsThatActOnThem() {
        receiver.answer(number -> new Receiver.Reply(400, ""));
        for (int number = 0; number < 5; number++) {
            send("d" + number, number, 9);
        }
        Client.await(() -> client.get("/api/v1/dead").path("total").asInt(), total -> total == 5);

        comesWholePageByPage("/api/v1/dead", "letters", "delivery", 5);

        for (String delivery : read("/api/v1/dead", "letters", "delivery", 3)) {
            Client.good(client.post("/api/v1/dead/drop", Map.of("deliveries", List.of(delivery))));
        }
        comesWholePageByPage("/api/v1/jobs", "jobs", "name", 5);
    }

    @Test
    void alarmsThoseThatAreRaisedBeforeThoseThatWereCleared() {
        for (int number = 0; number < 5; number++) {
            send("d" + number, number, -1);
        }
        send("d1", 20, 5);
        send("d3", 21, 5);
        Client.await(
                () -> client.get("/api/v1/alarms?state=cleared").path("alarms").size(), cleared -> cleared == 2);

        comesWholePageByPage("/api/v1/alarms", "alarms", "number", 5);
        assertThat(client.get("/api/v1/alarms?limit=5").path("alarms").valueStream())
                .extracting(alarm -> alarm.path("state").asString())
                .containsExactly("open", "open", "open", "cleared", "cleared");
    }

    @Test
    void incidentsAndRevisionsOfTheSetup() {
        for (int number = 0; number < 4; number++) {
            Client.good(client.post(
                    "/api/v1/incidents",
                    Map.of(
                            "outlet", "o",
                            "since", Instant.now().minusSeconds(60).toString(),
                            "until", Instant.now().toString())));
            adopt();
        }

        comesWholePageByPage("/api/v1/incidents", "incidents", "number", 4);
        comesWholePageByPage("/api/v1/setup/revisions", "revisions", "revision", 5);
    }

    @Test
    void whatIsNoPageIsSaidToBeNone() {
        for (String path : List.of("alarms", "incidents", "jobs", "dead", "setup/revisions", "messages", "devices")) {
            for (String limit : List.of("0", "501")) {
                Client.Answer answer =
                        client.keyed("GET", "/api/v1/" + path + "?limit=" + limit, null, "application/json");
                assertThat(answer.status()).as(path).isEqualTo(400);
                assertThat(answer.json().path("field").asString()).as(path).isEqualTo("limit");
            }
        }
        for (String path : List.of("alarms", "incidents", "jobs", "dead", "setup/revisions")) {
            Client.Answer answer =
                    client.keyed("GET", "/api/v1/" + path + "?after=yesterday", null, "application/json");
            assertThat(answer.status()).as(path).isEqualTo(400);
            assertThat(answer.json().path("field").asString()).as(path).isEqualTo("after");
        }
    }
}
