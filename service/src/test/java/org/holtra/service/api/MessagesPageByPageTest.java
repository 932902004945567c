package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class MessagesPageByPageTest extends ServiceTest {

    @Test
    void olderMessagesAreListedPageByPageTheNewestFirst() {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                """));
        List<String> sent = new ArrayList<>();
        for (int i = 0; i < 5; i++) {
            sent.add(client.send("i", "{\"id\":\"d\",\"n\":" + i + "}"));
        }

        List<String> listed = new ArrayList<>();
        String before = "";
        for (int page = 0; page < 3; page++) {
            JsonNode found = client.get("/api/v1/messages?limit=2" + before);
            found.path("messages")
                    .forEach(message -> listed.add(message.path("id").asString()));
            before = "&after=" + found.path("next").asString();
        }

        Collections.reverse(sent);
        assertThat(listed).isEqualTo(sent);
    }

    private List<String> found(String query) {
        return client.get("/api/v1/messages?" + query)
                .path("messages")
                .valueStream()
                .map(message -> message.path("id").asString())
                .toList();
    }

    @Test
    void contentIsSearchedWhateverItsCaseWithinASpanAndALane() {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  frosty: {inlets: [i], pick: "data.n < 2", outlet: o}
                """.formatted(receiver.address())));
        String first = client.send("i", "{\"id\":\"d\",\"n\":1,\"text\":\"Frost in row 7 \u2013 50%\"}");
        client.send("i", "{\"id\":\"d\",\"n\":1,\"text\":\"wind\"}");
        String third = client.send("i", "{\"id\":\"d\",\"n\":2,\"text\":\"FROST\"}");

        assertThat(found("contains=frost")).containsExactly(third, first);
        assertThat(found("contains=frost&lane=frosty")).containsExactly(first);
        assertThat(found("contains=%E2%80%93%2050%25")).containsExactly(first);
        assertThat(found("contains=frost&limit=1&after=" + third)).containsExactly(first);
        assertThat(found("contains=frost&to=2026-01-01T00:00:00Z")).isEmpty();
        assertThat(found("contains=hail")).isEmpty();
        assertThat(client.keyed("GET", "/api/v1/messages?contains=f", null, "application/json")
                        .status())
                .isEqualTo(400);
    }
}
