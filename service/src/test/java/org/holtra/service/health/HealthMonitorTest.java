package org.holtra.service.health;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class HealthMonitorTest {

    private TestService service;
    private Client client;
    private Receiver receiver;
    private Receiver mailbox;

    @BeforeEach
    void setUp() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        receiver = Receiver.answering(401);
        mailbox = Receiver.answering(200);
        client.save("w-in", Map.of("form", "bearer", "token", "in-token-1"));
        Client.good(client.adopt("""
                inlets:
                  w: {kind: http, at: {path: w, credential: w-in}, device: data.id}
                outlets:
                  w: {kind: http, to: {url: "%s/"}}
                  mail: {kind: http, to: {url: "%s/"}}
                lanes:
                  w: {inlets: [w], outlet: w}
                  trouble:
                    inlets: [holtra]
                    pick: data.alarm == "outlet"
                    outlet: mail
                    shape: {body: {subject: "${data.name} ${data.state}", type: "${meta.type}", text: "${data.text}"}}
                """.formatted(receiver.address(), mailbox.address())));
    }

    @AfterEach
    void tearDown() {
        service.close();
        receiver.close();
        mailbox.close();
    }

    private List<String> subjects() {
        return mailbox.came().stream()
                .map(came -> Client.JSON.readTree(came.body()).path("subject").asString())
                .toList();
    }

    @Test
    void aBlockedOutletTellsAPersonOnceAndAgainWhenItFlows() {
        String id = client.send("w", "{\"id\":\"a\"}");
        JsonNode status = Client.await(
                () -> client.get("/api/v1/status"), now -> !now.path("troubles").isEmpty());
        assertThat(status.at("/troubles/0/what").asString()).isEqualTo("outlet");
        assertThat(status.at("/troubles/0/text").asString()).contains("outlet w is blocked", "401");
        Client.await(this::subjects, subjects -> subjects.contains("w raised"));
        JsonNode alarm = client.get("/api/v1/messages?inlet=holtra").at("/messages/0");
        assertThat(alarm.path("type").asString()).isEqualTo("alarm");
        assertThat(client.trace(alarm.path("id").asString()).at("/data/alarm").asString())
                .isEqualTo("outlet");

        receiver.answer(number -> new Receiver.Reply(200, ""));
        Client.good(client.post("/api/v1/outlets/w/try", Map.of()));

        client.traceWhen(id, trace -> Client.state(trace).equals("delivered"));
        Client.await(this::subjects, subjects -> subjects.equals(List.of("w raised", "w cleared")));
        Client.await(
                () -> client.get("/api/v1/status"), now -> now.path("troubles").isEmpty());
    }

    @Test
    void aSpoolOfANodeThatIsGoneIsToldOf() {
        service.database().execute("""
                insert into spool_report (node, messages, bytes, most, oldest, disk_free, at)
                values ('lost', 7, 2100, 1000000, now(), 1000000000000, now())
                """);

        JsonNode status = Client.await(
                () -> client.get("/api/v1/status"), now -> !now.path("troubles").isEmpty());

        assertThat(status.at("/troubles/0/text").asString())
                .contains("7 messages are spooled on node lost, which is gone");
    }

    @Test
    void aHeapThatIsNearlyFullIsToldOf() {
        service.database().execute("""
                insert into node (id, name, started, lease_until)
                values (gen_random_uuid(), 'other', now(), now() + interval '1 hour');
                insert into spool_report (node, messages, bytes, most, oldest, disk_free, heap_percent, at)
                values ('other', 0, 0, 1000000, now(), 1000000000000, 92, now())
                """);

        JsonNode status = Client.await(
                () -> client.get("/api/v1/status"), now -> !now.path("troubles").isEmpty());

        assertThat(status.at("/troubles/0/what").asString()).isEqualTo("memory");
        assertThat(status.at("/troubles/0/text").asString())
                .startsWith("what node other keeps takes 92 per cent of its heap")
                .contains("HOLTRA_HEAP");
    }

    private void refused(int firstMinutesAgo, int lastMinutesAgo) {
        service.database().execute("""
                        insert into refusal_count (inlet, slip, count, since, last) values
                          ('w', 'no-scheme', 40, now() - interval '%d minutes', now() - interval '%d minutes')
                        on conflict (inlet, slip) do update set since = excluded.since, last = excluded.last
                        """.formatted(firstMinutesAgo, lastMinutesAgo));
    }

    @Test
    void anInletThatHasOnlyRefusedForTenMinutesIsTroubleUntilItTakesAMessage() {
        refused(12, 0);

        JsonNode status = Client.await(
                () -> client.get("/api/v1/status"), now -> !now.path("troubles").isEmpty());

        assertThat(status.at("/troubles/0/what").asString()).isEqualTo("refusals");
        assertThat(status.at("/troubles/0/text").asString())
                .startsWith("inlet w has refused every call for 12 min, the last for: no-scheme");
        client.send("w", "{\"id\":\"a\"}");
        Client.await(
                () -> client.get("/api/v1/status").path("troubles").toString(),
                troubles -> !troubles.contains("refusals"));
    }

    @Test
    void refusalsOfAFewMinutesOrOfLongAgoAreNoTrouble() {
        refused(9, 0);
        service.bean(HealthMonitor.class).look();
        assertThat(service.bean(HealthMonitor.class).open()).isEmpty();

        refused(600, 300);
        service.bean(HealthMonitor.class).look();
        assertThat(service.bean(HealthMonitor.class).open()).isEmpty();

        refused(600, 100);
        service.bean(HealthMonitor.class).look();
        assertThat(service.bean(HealthMonitor.class).open()).hasSize(1);
    }

    @Test
    void theNameOfItsInletIsHoltrasOwn() {
        Client.Answer answer = client.adopt("inlets:\n  holtra: {kind: http, at: {path: x, credential: w-in}}\n");

        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body()).contains("Holtra's own messages");
    }
}
