package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.service.cluster.Node;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class StrayTest extends ServiceTest {

    @Test
    void whatIsThisNodesByTheTableAndInNobodysHandsWaitsAgain() {
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  s: {inlets: [s], outlet: s, state: closed, order: device}
                """.formatted(receiver.address())));
        String id = client.send("s", "{\"id\":\"a\"}");
        Client.await(() -> service.database().texts("select id from owed"), rows -> rows.size() == 1);
        service.database()
                .execute("update owed set owner = '" + service.bean(Node.class).id() + "'");
        Client.good(client.adopt("""
                inlets:
                  s: {kind: http, at: {path: s, credential: sender}, device: data.id}
                outlets:
                  s: {kind: http, to: {url: "%s"}}
                lanes:
                  s: {inlets: [s], outlet: s, order: device}
                """.formatted(receiver.address())));
        Dispatcher dispatcher = service.bean(Dispatcher.class);

        dispatcher.freeStrays();
        assertThat(receiver.came()).as("it may just have been taken").isEmpty();
        dispatcher.freeStrays();

        becomes(id, "delivered");
        assertThat(receiver.came()).hasSize(1);
    }
}
