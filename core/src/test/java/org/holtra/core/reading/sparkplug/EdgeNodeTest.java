package org.holtra.core.reading.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.reading.sparkplug.EdgeNode.Outcome;
import org.holtra.core.reading.sparkplug.SparkplugTopic.Type;
import org.junit.jupiter.api.Test;

class EdgeNodeTest {

    private final EdgeNode node = new EdgeNode();
    private long sequence;

    private static Metric metric(String name, Long alias, MetricType type, Object raw) {
        return new Metric(name, alias, null, type, false, false, raw, Map.of());
    }

    private static SparkplugTopic topic(Type type) {
        return new SparkplugTopic("larkmoor", type, "ph-01", type.ofDevice() ? "pump" : null);
    }

    private Outcome take(Type type, Metric... metrics) {
        Payload payload = new Payload(1L, List.of(metrics), type == Type.NDEATH ? null : sequence);
        sequence = (sequence + 1) % 256;
        return node.take(topic(type), payload);
    }

    private Outcome born(long connection) {
        sequence = 0;
        return take(
                Type.NBIRTH,
                metric("bdSeq", null, MetricType.INT64, connection),
                metric("Flow", 1L, MetricType.DOUBLE, 1.5),
                metric("State", null, MetricType.INT8, 3L));
    }

    private static List<Metric> metrics(Outcome outcome) {
        return outcome instanceof Outcome.Metrics(List<Metric> metrics)
                ? metrics
                : ((Outcome.Online) outcome).metrics();
    }

    @Test
    void aBirthBringsItOnlineWithItsMetrics() {
        Outcome outcome = born(1);

        assertThat(node.isOnline()).isTrue();
        assertThat(metrics(outcome)).extracting(Metric::name).containsExactly("bdSeq", "Flow", "State");
    }

    @Test
    void dataAreUnderstoodByWhatTheBirthSaid() {
        born(1);

        List<Metric> metrics =
                metrics(take(Type.NDATA, metric(null, 1L, null, 2.5), metric("State", null, null, 0xFFL)));

        assertThat(metrics.getFirst().name()).isEqualTo("Flow");
        assertThat(metrics.getFirst().type()).isEqualTo(MetricType.DOUBLE);
        assertThat(metrics.getLast().value()).isEqualTo(-1L);
    }

    @Test
    void aDeviceIsBornAndDiesByItself() {
        born(1);
        take(Type.DBIRTH, metric("Speed", 7L, MetricType.INT32, 900L));
        assertThat(node.devicesOnline()).containsExactly("pump");

        assertThat(metrics(take(Type.DDATA, metric(null, 7L, null, 901L))))
                .extracting(Metric::name)
                .containsExactly("Speed");
        assertThat(take(Type.DDEATH)).isEqualTo(new Outcome.Online(false, List.of()));
        assertThat(node.devicesOnline()).isEmpty();
        assertThat(node.isOnline()).isTrue();
    }

    @Test
    void withoutABirthDataAskForOne() {
        assertThat(take(Type.NDATA)).isEqualTo(new Outcome.Rebirth("its birth was not heard"));
        born(1);
        assertThat(take(Type.DDATA)).isEqualTo(new Outcome.Rebirth("the birth of its device pump was not heard"));
    }

    @Test
    void anAliasThatNobodyExplainedAsksForABirth() {
        born(1);

        assertThat(take(Type.NDATA, metric(null, 99L, null, 1L)))
                .isEqualTo(new Outcome.Rebirth("nobody said what its alias 99 stands for"));
    }

    @Test
    void aGapInTheNumbersAsksForABirthUntilItComes() {
        born(1);
        sequence = 5;

        assertThat(take(Type.NDATA)).isEqualTo(new Outcome.Rebirth("message 1 is missing: 5 came"));
        assertThat(take(Type.NDATA)).isInstanceOf(Outcome.Rebirth.class);
        born(1);
        assertThat(take(Type.NDATA)).isInstanceOf(Outcome.Metrics.class);
    }

    @Test
    void after255TheNumbersBeginAnew() {
        born(1);
        for (int i = 0; i < 600; i++) {
            assertThat(take(Type.NDATA)).isInstanceOf(Outcome.Metrics.class);
        }
    }

    @Test
    void aDeathTakesItsDevicesWithIt() {
        born(1);
        take(Type.DBIRTH);

        assertThat(take(Type.NDEATH, metric("bdSeq", null, MetricType.INT64, 1L)))
                .isEqualTo(new Outcome.Online(false, List.of()));
        assertThat(node.isOnline()).isFalse();
        assertThat(node.devicesOnline()).isEmpty();
    }

    @Test
    void theDeathOfAConnectionThatWasReplacedIsIgnored() {
        born(1);
        born(2);

        assertThat(take(Type.NDEATH, metric("bdSeq", null, MetricType.INT64, 1L)))
                .isInstanceOf(Outcome.Ignored.class);
        assertThat(node.isOnline()).isTrue();
    }

    @Test
    void aNewBirthForgetsWhatTheOldOneSaid() {
        born(1);
        sequence = 0;
        take(Type.NBIRTH, metric("Level", 1L, MetricType.DOUBLE, 1.0));

        assertThat(metrics(take(Type.NDATA, metric(null, 1L, null, 2.0))))
                .extracting(Metric::name)
                .containsExactly("Level");
    }

    @Test
    void commandsAreNotItsOwn() {
        assertThat(node.take(topic(Type.NCMD), new Payload(1L, List.of(), null)))
                .isInstanceOf(Outcome.Ignored.class);
    }
}
