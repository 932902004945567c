package org.holtra.standins.weather;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.nio.ByteBuffer;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Random;
import org.holtra.standins.demo.Orchards;
import org.holtra.standins.network.Devices;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class WeatherTest {

    private static final Instant START = Instant.parse("2026-04-12T12:00:00Z");
    private static final double LOW = 84;
    private static final double HIGH = 140;

    private static Weather at(String hour) {
        return new Weather(START, LocalTime.parse(hour), 1);
    }

    @Test
    void aFrostyNightLooksLikeOneInTheLowRows() {
        assertThat(at("05:00").at(START, LOW).wetBulb()).isLessThan(0);
        assertThat(at("05:00").at(START, HIGH).air())
                .isGreaterThan(at("05:00").at(START, LOW).air());
        assertThat(at("14:00").at(START, LOW).wetBulb()).isGreaterThan(4);
    }

    @Test
    void theWetBulbIsNeverAboveTheAir() {
        for (int hour = 0; hour < 24; hour++) {
            Weather.At at = at("%02d:00".formatted(hour)).at(START, LOW);
            assertThat(at.wetBulb()).isLessThan(at.air() + 0.3);
        }
    }

    @Test
    void theWetBulbFollowsThePublishedExample() {
        // The example of Stull's article: 20 degrees and 50 percent give 13.7 degrees.
        assertThat(Weather.wetBulb(20, 50)).isCloseTo(13.7, within(0.05));
    }

    @Test
    void itsClockRunsAtItsSpeed() {
        Weather fast = new Weather(START, LocalTime.parse("03:30"), 4);

        assertThat(fast.clock(START.plus(Duration.ofMinutes(30)))).isEqualTo(LocalTime.parse("05:30"));
    }

    @Test
    void rainTotalsOnlyRiseAndFramesAreCounted() {
        Devices devices = new Devices(new Weather(START, LocalTime.parse("13:00"), 6), new Random(5));
        List<JsonNode> uplinks = new ArrayList<>();
        for (int minute = 0; minute < 60; minute++) {
            devices.gauge(Orchards.gauges().getFirst(), START.plus(Duration.ofMinutes(minute)), 1 / 60.0)
                    .forEach(body -> uplinks.add(JsonMapper.shared().readTree(body)));
        }

        List<JsonNode> readings = uplinks.stream()
                .filter(uplink -> uplink.path("type").asString().equals("uplink"))
                .toList();
        assertThat(readings).hasSizeGreaterThan(60);
        assertThat(readings).allMatch(uplink -> uplink.path("simulated").asBoolean());
        int lost = 0;
        for (int i = 1; i < readings.size(); i++) {
            JsonNode before = readings.get(i - 1);
            JsonNode now = readings.get(i);
            assertThat(tips(now)).isGreaterThanOrEqualTo(tips(before));
            int step = now.path("counter").asInt() - before.path("counter").asInt();
            assertThat(step).isBetween(0, 4);
            lost += Math.max(0, step - 1);
        }
        assertThat(lost).isPositive();
    }

    private static int tips(JsonNode uplink) {
        return ByteBuffer.wrap(Base64.getDecoder().decode(uplink.path("payload").asString()))
                .getInt();
    }

    @Test
    void theLowRowsAreTheFrostProneOnes() {
        assertThat(Orchards.stations()).hasSize(60);
        assertThat(Orchards.stations().stream()
                        .filter(Orchards.Place::frostProne)
                        .count())
                .isBetween(5L, 30L);
    }
}
