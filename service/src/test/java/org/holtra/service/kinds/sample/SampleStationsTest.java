package org.holtra.service.kinds.sample;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class SampleStationsTest {

    private static final Instant EVENING = Instant.parse("2026-04-12T18:00:00Z");

    private static double wetBulb(int station, long seconds) {
        return (double)
                SampleStations.reading(station, EVENING.plusSeconds(seconds)).get("wetBulb");
    }

    @Test
    void aNightBringsFrostAndWarmsAgainSoThatTheLookoutRaisesAndClears() {
        for (int station = 1; station <= 6; station++) {
            int its = station;
            double coldest = IntStream.range(0, 900)
                    .mapToDouble(second -> wetBulb(its, second))
                    .min()
                    .orElseThrow();
            double warmest = IntStream.range(0, 900)
                    .mapToDouble(second -> wetBulb(its, second))
                    .max()
                    .orElseThrow();
            assertThat(coldest).as("station %d", station).isLessThan(0.3);
            assertThat(warmest).as("station %d", station).isGreaterThan(1.5);
        }
    }

    @Test
    void readingsAreTheSameForTheSameInstantAndCarryTheirStation() {
        Map<String, Object> reading = SampleStations.reading(3, EVENING);
        assertThat(reading).isEqualTo(SampleStations.reading(3, EVENING));
        assertThat(reading)
                .containsEntry("station", "sample-03")
                .containsEntry("orchard", "Cressing")
                .containsEntry("at", EVENING.toString());
        assertThat((double) reading.get("humidity")).isBetween(0.0, 100.0);
    }
}
