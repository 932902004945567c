package org.holtra.service.metrics;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

/** What is told to whoever watches from outside. */
class MetricsTest extends ServiceTest {

    private String metrics() {
        return Client.good(client.call(
                        "GET",
                        "/api/v1/metrics",
                        null,
                        "Accept",
                        "text/plain",
                        "Authorization",
                        "Bearer " + service.key()))
                .body();
    }

    private void adopt(String url) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}}
                outlets:
                  o: {kind: http, to: {url: "%s"}}
                lanes:
                  l: {inlets: [i], outlet: o}
                """.formatted(url)));
    }

    @Test
    void whatCameInAndWhatBecameOfItIsCounted() {
        adopt(receiver.address());
        becomes(client.send("i", "{}"), "delivered");

        for (String line : List.of(
                "holtra_messages_acknowledged_total{inlet=\"i\"} 1.0",
                "holtra_deliveries_taken_total{lane=\"l\"} 1.0",
                "holtra_deliveries_delivered_total{lane=\"l\"} 1.0",
                "holtra_attempts_seconds_count{outlet=\"o\",verdict=\"delivered\"} 1",
                "holtra_outlet_flowing{outlet=\"o\",state=\"flowing\"} 1.0",
                "holtra_connection_up{name=\"i\",of=\"inlet\",state=\"connected\"} 1.0",
                "jvm_memory_used_bytes")) {
            Client.await(this::metrics, text -> text.contains(line));
        }
    }

    @Test
    void whatWaitsIsToldWithItsAge() {
        adopt("http://127.0.0.1:1/nobody");
        client.send("i", "{}");

        // Each is registered by itself: a call at that moment may see the one and not yet the other.
        for (String line : List.of(
                "holtra_lane_waiting{lane=\"l\",outlet=\"o\"} 1.0",
                "holtra_lane_oldest_seconds{lane=\"l\",outlet=\"o\"}",
                "holtra_outlet_flowing{outlet=\"o\",state=\"broken\"} 0.0")) {
            Client.await(this::metrics, text -> text.contains(line));
        }
    }

    @Test
    void nobodyIsToldWithoutAKey() {
        assertThat(new Client(service.address(), "none")
                        .call("GET", "/api/v1/metrics", null)
                        .status())
                .isEqualTo(401);
    }
}
