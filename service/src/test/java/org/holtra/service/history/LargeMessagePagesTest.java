package org.holtra.service.history;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.assertj.core.data.Offset;
import org.holtra.core.message.MessageId;
import org.holtra.service.reading.Past;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Stored messages that are too large for one page of what goes through them. */
class LargeMessagePagesTest extends SharedServiceTest {

    private static final int MESSAGES = 24;
    private static final String FILLING = "x".repeat(1_000_000);

    private List<String> ids;
    private Instant began;

    @BeforeEach
    void sendMoreThanAPage() {
        Client.good(client.adopt("""
                inlets:
                  big: {kind: http, at: {path: big, credential: sender}, device: data.id}
                outlets:
                  big: {kind: http, to: {url: "%s/"}}
                lanes:
                  big: {inlets: [big], outlet: big, shape: {body: {n: "${data.n}"}}}
                """.formatted(receiver.address())));
        ids = new ArrayList<>();
        for (int n = 0; n < MESSAGES; n++) {
            ids.add(client.send("big", "{\"id\":\"large\",\"n\":" + n + ",\"filling\":\"" + FILLING + "\"}"));
        }
        began = MessageId.parse(ids.getFirst()).received();
        Client.await(() -> receiver.came().size(), size -> size == MESSAGES);
    }

    private Records records() {
        return service.bean(Records.class);
    }

    @Test
    void aPageEndsWithItsBytesAndTheNextGoesOnBehindIt() {
        MessagePage first = records().readAfter(Set.of("big"), MessageId.before(began), Instant.now(), 100);
        MessagePage second = records().readAfter(Set.of("big"), first.last(), Instant.now(), 100);

        assertThat(first.messages()).hasSize(17); // the first beyond 16 MB ends it
        assertThat(first.more()).isTrue();
        assertThat(second.messages()).hasSize(MESSAGES - 17);
        assertThat(second.last()).isNull();
    }

    @Test
    void theListOfMessagesComesInShorterPages() {
        List<String> listed = new ArrayList<>();
        List<Integer> sizes = new ArrayList<>();
        String after = null;
        do {
            JsonNode page = client.get(
                    "/api/v1/messages?inlet=big&limit=100&from=" + began + (after == null ? "" : "&after=" + after));
            page.path("messages").forEach(one -> listed.add(one.path("id").asString()));
            sizes.add(page.path("messages").size());
            after = page.path("next").asString(null);
        } while (after != null);

        Collections.reverse(listed);
        assertThat(listed).containsExactlyElementsOf(ids);
        assertThat(sizes).hasSize(2);
    }

    @Test
    void aReplayDeliversAllOfThem() {
        Map<String, Object> terms = new HashMap<>(Map.of("lane", "big", "from", began));

        JsonNode preview =
                Client.good(client.post("/api/v1/replays/preview", terms)).json();
        Client.good(client.post("/api/v1/replays", terms));

        assertThat(preview.path("deliveries").asInt()).isEqualTo(MESSAGES);
        Client.await(() -> receiver.came().size(), size -> size == 2 * MESSAGES);
    }

    @Test
    void aRehearsalLooksAtAllOfThem() {
        Map<String, Object> lane = Map.of("inlets", List.of("big"), "outlet", "big", "pick", "data.n < 20");

        String id = Client.good(client.post("/api/v1/lanes/big/rehearsals", Map.of("lane", lane, "from", began)))
                .json()
                .path("id")
                .asString();
        JsonNode ended = Client.await(
                () -> client.get("/api/v1/rehearsals/" + id),
                one -> !one.path("ended").isNull());

        assertThat(ended.at("/counts/lost").asInt()).as(ended.toString()).isEqualTo(4);
    }

    @Test
    void aPlotShowsAllOfThem() {
        JsonNode series = client.get("/api/v1/devices/series?key=large&field=n&from=" + began);

        assertThat(series.path("points")).hasSize(MESSAGES);
        assertThat(series.path("more").asBoolean()).isFalse();
    }

    @Test
    void whatIsTriedOnThePastSaysThatItLooksAtTheLatestOnly() {
        Past.Messages all =
                service.bean(Past.class).of(new Past.Wanted(Set.of("big", "a", "b", "c"), null, began, Instant.now()));

        assertThat(all.cut()).isTrue();
        assertThat(all.messages().size()).isCloseTo(17, Offset.offset(1));
        assertThat(all.messages().getLast().id().toString()).isEqualTo(ids.getLast());
    }
}
