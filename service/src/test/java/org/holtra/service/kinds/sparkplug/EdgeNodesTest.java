package org.holtra.service.kinds.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.SparkplugTopic;
import org.holtra.core.reading.sparkplug.SparkplugTopic.Type;
import org.junit.jupiter.api.Test;

class EdgeNodesTest {

    private static final Instant NOW = Instant.parse("2026-05-01T10:00:00Z");
    private static final long SENT = 1_777_629_600_000L;

    private final EdgeNodes nodes = new EdgeNodes(MetricChoice.of(List.of(), true));
    private long sequence;

    private static Metric metric(String name, Object value, Long at, boolean historical) {
        return new Metric(name, null, at, MetricType.DOUBLE, historical, false, value, Map.of());
    }

    private static Metric metric(String name, Object value) {
        return metric(name, value, null, false);
    }

    private EdgeNodes.Heard hear(Type type, Instant now, Metric... metrics) {
        if (type == Type.NBIRTH) {
            sequence = 0;
        }
        Payload payload = new Payload(SENT, List.of(metrics), sequence++);
        return nodes.hear(new SparkplugTopic("larkmoor", type, "ph-01", type.ofDevice() ? "pump" : null), payload, now);
    }

    private static String text(EdgeMessage message) {
        return message.edge() + " " + message.type() + " " + new String(message.body(), StandardCharsets.UTF_8);
    }

    private List<String> texts(Type type, Metric... metrics) {
        return hear(type, NOW, metrics).messages().stream()
                .map(EdgeNodesTest::text)
                .toList();
    }

    @Test
    void aBirthTellsThatItIsOnlineAndItsValues() {
        assertThat(texts(Type.NBIRTH, metric("Pump/Flow", 4.5), metric("bdSeq", 1.0)))
                .containsExactly(
                        "larkmoor/ph-01 status {\"online\":true}", "larkmoor/ph-01 reading {\"Pump\":{\"Flow\":4.5}}");
        assertThat(texts(Type.DBIRTH, metric("Speed", 900.0)))
                .containsExactly(
                        "larkmoor/ph-01/pump status {\"online\":true}",
                        "larkmoor/ph-01/pump reading {\"Speed\":900.0}");
        assertThat(nodes.online()).isEqualTo(1);
    }

    @Test
    void withANodeItsDevicesGoOffline() {
        hear(Type.NBIRTH, NOW);
        hear(Type.DBIRTH, NOW);

        assertThat(texts(Type.NDEATH))
                .containsExactly(
                        "larkmoor/ph-01/pump status {\"online\":false}", "larkmoor/ph-01 status {\"online\":false}");
    }

    @Test
    void metricsOfDifferentMomentsAreMessagesOfTheirOwn() {
        hear(Type.NBIRTH, NOW);

        List<EdgeMessage> messages = hear(
                        Type.NDATA,
                        NOW,
                        metric("a", 1.0, 1_000L, true),
                        metric("b", 2.0, 1_000L, true),
                        metric("a", 3.0))
                .messages();

        assertThat(messages).hasSize(2);
        assertThat(messages.getFirst().at()).isEqualTo(Instant.ofEpochMilli(1_000));
        assertThat(messages.getFirst().historical()).isTrue();
        assertThat(messages.getFirst().fields()).isEqualTo(Map.of("a", 1.0, "b", 2.0));
        assertThat(messages.getLast().at()).isEqualTo(Instant.ofEpochMilli(SENT));
    }

    @Test
    void aMetricMayHaveAValueAndOthersBelowIt() {
        hear(Type.NBIRTH, NOW);

        assertThat(texts(Type.NDATA, metric("a", 1.0), metric("a/b", 2.0)))
                .containsExactly("larkmoor/ph-01 reading {\"a\":{\"\":1.0,\"b\":2.0}}");
        assertThat(texts(Type.NDATA, metric("a/b", 2.0), metric("a", 1.0)))
                .containsExactly("larkmoor/ph-01 reading {\"a\":{\"b\":2.0,\"\":1.0}}");
    }

    @Test
    void aBirthIsAskedForOnceAndThenAgainAfterAWhile() {
        assertThat(hear(Type.NDATA, NOW).rebirth()).isEqualTo("its birth was not heard");
        assertThat(hear(Type.NDATA, NOW.plusSeconds(5)).rebirth()).isNull();
        assertThat(hear(Type.NDATA, NOW.plusSeconds(11)).rebirth()).isNotNull();
    }
}
