package org.holtra.service.tracing;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;

/** Spans that a collector gets. */
class JourneysTest {

    private static String spans(Receiver collector) {
        StringBuilder all = new StringBuilder();
        collector.came().forEach(came -> all.append(came.body()));
        return all.toString();
    }

    @Test
    void aMessageAndEachAttemptIsASpanWhoseIdTheDestinationGot() {
        try (Receiver collector = Receiver.answering(200);
                Receiver destination = Receiver.answering(200);
                TestService service = TestService.start(
                        TestDatabase.fresh(), Map.of("holtra.traces-to", collector.address() + "/v1/traces"))) {
            destination.answer(number -> new Receiver.Reply(number == 1 ? 500 : 200, ""));
            Client client = service.client();
            client.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
            Client.good(client.adopt("""
                    inlets:
                      i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                    outlets:
                      o: {kind: http, to: {url: "%s"}}
                    lanes:
                      l: {inlets: [i], outlet: o, retry: {first: 100ms}}
                    """.formatted(destination.address())));

            String id = client.send("i", "{\"id\":\"north\"}");
            client.traceWhen(id, trace -> Client.state(trace).equals("delivered"));

            String spans = Client.await(
                    () -> spans(collector), all -> all.contains("message at i") && all.contains("delivered"));
            assertThat(spans).contains("delivery by l", "holtra.outlet", "north", "the destination answered 500");
            assertThat(destination.came())
                    .hasSize(2)
                    .allSatisfy(came ->
                            assertThat(came.header("traceparent")).startsWith("00-" + id.replace("-", "") + "-"));
            assertThat(destination.came().getFirst().header("traceparent"))
                    .isNotEqualTo(destination.came().getLast().header("traceparent"));
            assertThat(collector.came().getFirst().target()).isEqualTo("/v1/traces");
        }
    }
}
