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
            before = "&before=" + found.path("before").asString();
        }

        Collections.reverse(sent);
        assertThat(listed).isEqualTo(sent);
    }
}
