package org.holtra.standins.network;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.holtra.standins.demo.Orchards;
import org.holtra.standins.demo.Orchards.Place;
import org.holtra.standins.weather.Weather;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class DevicesTest {

    private static final Instant START = Instant.parse("2026-04-12T12:00:00Z");

    private final Devices devices = new Devices(new Weather(START, LocalTime.parse("05:00"), 6), new Random(5));

    private static JsonNode read(byte[] body) {
        return JsonMapper.shared().readTree(body);
    }

    private static Place mast(String key) {
        return Orchards.masts().stream()
                .filter(place -> place.key().equals(key))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void thePumpsMetersOnlyRiseAndByWhatThePumpMoved() {
        Place pump = Orchards.pumpHouses().getFirst();
        List<JsonNode> reports = new ArrayList<>();
        for (int minute = 0; minute < 240; minute += 15) {
            reports.add(read(devices.pump(pump, START.plus(Duration.ofMinutes(minute)))));
        }

        for (int i = 1; i < reports.size(); i++) {
            JsonNode before = reports.get(i - 1);
            JsonNode now = reports.get(i);
            double moved = now.path("water").asDouble() - before.path("water").asDouble();
            assertThat(moved)
                    .isCloseTo(before.path("flow").asDouble() / 4, org.assertj.core.api.Assertions.within(.02));
            assertThat(now.path("energy").asDouble())
                    .isGreaterThanOrEqualTo(before.path("energy").asDouble());
        }
    }

    @Test
    void oneEnergyMeterIsPutInNewAndBeginsAtZero() {
        Place pump = Orchards.pumpHouses().get(3);
        List<Double> energy = new ArrayList<>();
        for (int minute = 0; minute < 70; minute++) {
            energy.add(read(devices.pump(pump, START.plus(Duration.ofMinutes(minute))))
                    .path("energy")
                    .asDouble());
        }

        assertThat(energy.getFirst()).isGreaterThan(1_000);
        assertThat(energy.getLast()).isBetween(0.0, 10.0);
    }

    @Test
    void whatAPumpHouseKeptComesInOrderAndEndsBeforeNow() {
        List<Instant> times = devices.pumpLog(Orchards.pumpHouses().getLast(), START, Duration.ofHours(30)).stream()
                .map(body -> Instant.parse(read(body).path("at").asString()))
                .toList();

        assertThat(times).hasSize(120).isSorted().first().isEqualTo(START.minus(Duration.ofHours(30)));
        assertThat(times.getLast()).isBefore(START);
    }

    @Test
    void theOldestMastPostsEachFieldByItselfAndTheOthersPostThemTogether() {
        List<byte[]> pieces = devices.mast(mast("wm-05"), START);
        List<byte[]> whole = devices.mast(mast("wm-01"), START);

        assertThat(pieces).hasSizeBetween(3, 4).allSatisfy(piece -> {
            assertThat(read(piece).path("at").asString()).isEqualTo(START.toString());
            assertThat(read(piece).size()).isEqualTo(4);
        });
        assertThat(whole).hasSize(1);
        assertThat(read(whole.getFirst()).propertyNames()).contains("air", "humidity", "wind", "inversion");
    }
}
