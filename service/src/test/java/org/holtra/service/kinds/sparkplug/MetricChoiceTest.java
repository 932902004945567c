package org.holtra.service.kinds.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.junit.jupiter.api.Test;

class MetricChoiceTest {

    private static Metric metric(String name, boolean passing) {
        return new Metric(name, null, null, MetricType.DOUBLE, false, passing, 1.0, Map.of());
    }

    @Test
    void withoutAChoiceAllButTheProtocolsOwnAreTaken() {
        MetricChoice choice = MetricChoice.of(List.of(), true);

        assertThat(choice).accepts(metric("Pump/Flow", false), metric("Flow", true));
        assertThat(choice).rejects(metric("bdSeq", false), metric("Node Control/Rebirth", false));
    }

    @Test
    void namesMayHaveAnyCharactersInThem() {
        MetricChoice choice = MetricChoice.of(List.of("Pump*/Flow", "a.b"), true);

        assertThat(choice).accepts(metric("Pump 1/Flow", false), metric("a.b", false));
        assertThat(choice).rejects(metric("Pump 1/Pressure", false), metric("axb", false));
    }

    @Test
    void transientMetricsMayBeLeftOut() {
        assertThat(MetricChoice.of(List.of(), false)).rejects(metric("Flow", true));
    }
}
