package org.holtra.standins.network;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.random.RandomGenerator;
import org.holtra.standins.demo.Orchards;
import org.holtra.standins.demo.Orchards.Place;
import org.holtra.standins.weather.Weather;
import tools.jackson.databind.json.JsonMapper;

/** What the simulated devices have to say at a moment. Not for use by several threads. */
public final class Devices {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final double DOUBLES = 0.04;
    private static final double CUT = 0.03;
    private static final double FAULTS = 0.004;
    private static final double STATUSES = 0.02;
    private static final String CUTTING_MAST = "wm-06";
    private static final String MAST_AHEAD = "wm-04";
    private static final String PIECEMEAL_MAST = "wm-05";
    private static final double LOST_PIECES = 0.01;
    private static final String BROKEN_PROBE = "sp-07";
    private static final String RESTARTING_GAUGE = "rg-05";
    private static final double RESTARTS = 0.03;
    private static final String FALLS_SILENT = "cs-33";
    private static final int LAST_WORD = 6;
    private static final Duration LOCAL_TIME = Duration.ofHours(2);
    private static final Duration LOG_EVERY = Duration.ofMinutes(15);

    private final Weather weather;
    private final RandomGenerator random;
    private final Counters counters;
    private final Map<String, Pump> pumps = new HashMap<>();
    private final Map<String, Double> rainTotals = new HashMap<>();
    private int wordsOfTheSilent;

    public Devices(Weather weather, RandomGenerator random) {
        this.weather = weather;
        this.random = random;
        this.counters = new Counters(random);
    }

    /** The uplinks of a climate station: one, or now and then the same once more through another gateway. */
    public List<byte[]> station(Place place, Instant now) {
        if (place.key().equals(FALLS_SILENT) && ++wordsOfTheSilent > LAST_WORD) {
            return List.of();
        }
        return uplinks(place, 2, Payloads.station(weather.at(now, place.altitude()), battery(place)), now);
    }

    /** The uplinks of a rain gauge, whose total only rises, but for one that begins anew at times. */
    public List<byte[]> gauge(Place place, Instant now, double hoursSinceLast) {
        double fallen = weather.at(now, place.altitude()).rain() * hoursSinceLast * weather.speed();
        if (place.key().equals(RESTARTING_GAUGE) && random.nextDouble() < RESTARTS) {
            rainTotals.remove(place.key());
        }
        double total = rainTotals.merge(place.key(), fallen, Double::sum);
        return uplinks(place, 3, Payloads.gauge(total, battery(place)), now);
    }

    /** The uplinks of a soil probe with its three depths. */
    public List<byte[]> probe(Place place, Instant now) {
        Weather.At at = weather.at(now, place.altitude());
        double wet = Math.min(1, at.humidity() / 100 + at.rain() / 10);
        return uplinks(
                place, 4, Payloads.probe(at, wet, battery(place), place.key().equals(BROKEN_PROBE)), now);
    }

    /**
     * What a mast posts itself. The modem of one of them cuts a message off now and then; another, the oldest, posts each
     * field by itself, and not all of them arrive.
     */
    public List<byte[]> mast(Place place, Instant now) {
        Weather.At at = weather.at(now, place.altitude());
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("air", rounded(at.air(), 1));
        fields.put("humidity", rounded(at.humidity(), 0));
        fields.put(
                "wind",
                Map.of("speed", rounded(at.wind(), 1), "gust", rounded(at.wind() * (1.3 + random.nextDouble()), 1)));
        fields.put("inversion", rounded(Math.max(-1, 4 - at.wind() * 1.4), 1));
        if (place.key().equals(PIECEMEAL_MAST)) {
            return fields.entrySet().stream()
                    .filter(field -> random.nextDouble() >= LOST_PIECES)
                    .map(field -> ofMast(place, now, Map.of(field.getKey(), field.getValue())))
                    .toList();
        }
        // The clock of one of them was set to the time on the wall, and says it is Greenwich's.
        byte[] bytes = ofMast(place, place.key().equals(MAST_AHEAD) ? now.plus(LOCAL_TIME) : now, fields);
        boolean cut = place.key().equals(CUTTING_MAST) && random.nextDouble() < CUT;
        return List.of(cut ? Arrays.copyOf(bytes, bytes.length / 2) : bytes);
    }

    private static byte[] ofMast(Place place, Instant at, Map<String, Object> fields) {
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("mast", place.key());
        body.put("at", at.toString());
        body.put("simulated", true);
        body.putAll(fields);
        return JSON.writeValueAsBytes(body);
    }

    /** What a pump house reports: the state of its pump as a code, what it moves, and its meters. */
    public byte[] pump(Place place, Instant now) {
        return pump(place).report(now);
    }

    /**
     * What a pump house kept while its line was down, and sends when it is up again: a reading each quarter of an hour of
     * the time before.
     */
    public List<byte[]> pumpLog(Place place, Instant now, Duration before) {
        List<byte[]> log = new ArrayList<>();
        for (Instant at = now.minus(before); at.isBefore(now); at = at.plus(LOG_EVERY)) {
            log.add(pump(place).report(at));
        }
        return log;
    }

    private Pump pump(Place place) {
        return pumps.computeIfAbsent(place.key(), key -> new Pump(place, random));
    }

    private List<byte[]> uplinks(Place place, int port, byte[] payload, Instant now) {
        int counter = counters.next(place.key());
        List<byte[]> uplinks = new ArrayList<>();
        uplinks.add(uplink(place, port, counter, payload, now, place.orchard()));
        if (random.nextDouble() < DOUBLES) {
            uplinks.add(uplink(place, port, counter, payload, now, "Ridge"));
        }
        if (random.nextDouble() < STATUSES) {
            uplinks.add(about(place, "status", Map.of("battery", battery(place), "margin", random.nextInt(20)), now));
        }
        if (random.nextDouble() < FAULTS) {
            uplinks.add(
                    about(place, "fault", Map.of("code", "join-refused", "text", "a session key was used twice"), now));
        }
        return uplinks;
    }

    private byte[] uplink(Place place, int port, int counter, byte[] payload, Instant now, String gatewayAt) {
        Map<String, Object> gateway = new LinkedHashMap<>();
        gateway.put("id", "gw-" + gatewayAt.toLowerCase(java.util.Locale.ROOT));
        gateway.put("rssi", -82 - random.nextInt(36));
        gateway.put("snr", rounded(9 - random.nextDouble() * 14, 1));
        gateway.put("position", Orchards.gateway(gatewayAt));
        Map<String, Object> body = head(place, "uplink", now);
        body.put("port", port);
        body.put("counter", counter);
        body.put("payload", Base64.getEncoder().encodeToString(payload));
        body.put(
                "radio",
                Map.of(
                        "spreadingFactor",
                        7 + random.nextInt(6),
                        "frequency",
                        rounded(868.1 + random.nextInt(3) * 0.2, 1)));
        body.put("gateways", List.of(gateway));
        return JSON.writeValueAsString(body).getBytes(StandardCharsets.UTF_8);
    }

    /** What the network server itself has to say of a device. */
    private byte[] about(Place place, String type, Map<String, Object> what, Instant now) {
        Map<String, Object> body = head(place, type, now);
        body.put(type, what);
        return JSON.writeValueAsString(body).getBytes(StandardCharsets.UTF_8);
    }

    private static Map<String, Object> head(Place place, String type, Instant now) {
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("type", type);
        body.put("device", Map.of("id", place.key(), "profile", place.model()));
        body.put("at", now.toString());
        body.put("simulated", true);
        return body;
    }

    /** In percent; a few stations are due for a new one. */
    private int battery(Place place) {
        int full = 55 + Math.floorMod(place.key().hashCode() * 31, 45);
        return place.model().equals("climate-station") && place.row() == 9 ? 12 : full;
    }

    static double rounded(double value, int places) {
        double scale = Math.pow(10, places);
        return Math.round(value * scale) / scale;
    }
}
