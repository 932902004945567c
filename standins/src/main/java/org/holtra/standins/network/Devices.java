package org.holtra.standins.network;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.random.RandomGenerator;
import org.holtra.standins.demo.Orchards.Place;
import org.holtra.standins.weather.Weather;
import tools.jackson.databind.json.JsonMapper;

/** What the simulated devices have to say at a moment. Not for use by several threads. */
public final class Devices {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final double DOUBLES = 0.04;
    private static final double CUT = 0.03;
    private static final String CUTTING_MAST = "wm-06";

    private final Weather weather;
    private final RandomGenerator random;
    private final Map<String, Integer> counters = new HashMap<>();
    private final Map<String, Double> rainTotals = new HashMap<>();

    public Devices(Weather weather, RandomGenerator random) {
        this.weather = weather;
        this.random = random;
    }

    /** The uplinks of a climate station: one, or now and then the same once more through another gateway. */
    public List<byte[]> station(Place place, Instant now) {
        Weather.At at = weather.at(now, place.altitude());
        Map<String, Object> decoded = new LinkedHashMap<>();
        decoded.put("airTemperature", rounded(at.air(), 2));
        decoded.put("wetBulb", rounded(at.wetBulb(), 2));
        decoded.put("humidity", rounded(at.humidity(), 1));
        decoded.put("leafWetness", at.rain() > 0 || at.humidity() > 92 ? 14 : 0);
        decoded.put("battery", battery(place));
        return uplinks(place, 2, decoded, now);
    }

    /** The uplinks of a rain gauge, whose total only rises. */
    public List<byte[]> gauge(Place place, Instant now, double hoursSinceLast) {
        double fallen = weather.at(now, place.altitude()).rain() * hoursSinceLast * weather.speed();
        double total = rainTotals.merge(place.key(), fallen, Double::sum);
        Map<String, Object> decoded = new LinkedHashMap<>();
        decoded.put("rainTotal", rounded(total, 1));
        decoded.put("rainRate", rounded(weather.at(now, place.altitude()).rain(), 1));
        decoded.put("battery", battery(place));
        return uplinks(place, 3, decoded, now);
    }

    /** What a mast posts itself; the modem of one of them cuts a message off now and then. */
    public byte[] mast(Place place, Instant now) {
        Weather.At at = weather.at(now, place.altitude());
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("mast", place.key());
        body.put("at", now.toString());
        body.put("simulated", true);
        body.put("air", rounded(at.air(), 1));
        body.put("humidity", rounded(at.humidity(), 0));
        body.put(
                "wind",
                Map.of("speed", rounded(at.wind(), 1), "gust", rounded(at.wind() * (1.3 + random.nextDouble()), 1)));
        body.put("inversion", rounded(Math.max(-1, 4 - at.wind() * 1.4), 1));
        byte[] bytes = JSON.writeValueAsBytes(body);
        if (place.key().equals(CUTTING_MAST) && random.nextDouble() < CUT) {
            return java.util.Arrays.copyOf(bytes, bytes.length / 2);
        }
        return bytes;
    }

    private List<byte[]> uplinks(Place place, int port, Map<String, Object> decoded, Instant now) {
        int counter = counters.merge(place.key(), 1, Integer::sum);
        List<byte[]> uplinks = new ArrayList<>();
        uplinks.add(uplink(place, port, counter, decoded, now, place.orchard()));
        if (random.nextDouble() < DOUBLES) {
            uplinks.add(uplink(place, port, counter, decoded, now, "Ridge"));
        }
        return uplinks;
    }

    private byte[] uplink(
            Place place, int port, int counter, Map<String, Object> decoded, Instant now, String gatewayAt) {
        Map<String, Object> gateway = new LinkedHashMap<>();
        gateway.put("id", "gw-" + gatewayAt.toLowerCase(java.util.Locale.ROOT));
        gateway.put("rssi", -82 - random.nextInt(36));
        gateway.put("snr", rounded(9 - random.nextDouble() * 14, 1));
        gateway.put("position", Map.of("lat", 12.5 + place.orchard().length() / 100.0, "lon", -41.25, "alt", 131));
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("type", "uplink");
        body.put("device", Map.of("id", place.key(), "profile", place.model()));
        body.put("at", now.toString());
        body.put("port", port);
        body.put("counter", counter);
        body.put(
                "radio",
                Map.of("spreadingFactor", 7 + random.nextInt(6), "frequency", 868.1 + random.nextInt(3) * 0.2));
        body.put("gateways", List.of(gateway));
        body.put("decoded", decoded);
        body.put("simulated", true);
        return JSON.writeValueAsString(body).getBytes(StandardCharsets.UTF_8);
    }

    /** In percent; a few stations are due for a new one. */
    private int battery(Place place) {
        int full = 55 + Math.floorMod(place.key().hashCode() * 31, 45);
        return place.model().equals("climate-station") && place.row() == 9 ? 12 : full;
    }

    private static double rounded(double value, int places) {
        double scale = Math.pow(10, places);
        return Math.round(value * scale) / scale;
    }
}
