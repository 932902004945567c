package org.holtra.service.kinds.sample;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What made-up climate stations measure in a night of spring that comes round every quarter of an hour. */
final class SampleStations {

    private static final List<String> ORCHARDS = List.of("Ashcombe", "Birkholt", "Cressing", "Dunmere");
    private static final double NIGHT_SECONDS = 900;

    private SampleStations() {}

    /** @param station from 1 */
    static Map<String, Object> reading(int station, Instant at) {
        double phase = 2 * Math.PI * (at.getEpochSecond() % NIGHT_SECONDS) / NIGHT_SECONDS;
        // Stations lower down are colder.
        double air = 2.5 + 3.5 * Math.cos(phase) - 0.4 * (station % 4);
        double humidity = 82 - 9 * Math.cos(phase) + station % 3;
        Map<String, Object> reading = new LinkedHashMap<>();
        reading.put("station", "sample-%02d".formatted(station));
        reading.put("orchard", ORCHARDS.get((station - 1) % ORCHARDS.size()));
        reading.put("at", at.toString());
        reading.put("airTemperature", tenths(air));
        reading.put("wetBulb", tenths(air - (100 - humidity) * 0.11));
        reading.put("humidity", tenths(humidity));
        reading.put("battery", tenths(3.6 - 0.01 * station));
        return reading;
    }

    private static double tenths(double value) {
        return Math.round(value * 10) / 10.0;
    }
}
