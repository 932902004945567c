package org.holtra.standins.network;

import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.random.RandomGenerator;
import tools.jackson.databind.json.JsonMapper;

/**
 * Devices that know nothing but a URL: an older meter of a pump house, which posts the channels of two meters at once, and a
 * soil logger, which sends each depth as a bare number to an address of its own. They send once, whatever is answered. Whoever
 * set the meter up needed a few tries.
 */
public final class OldDevices implements AutoCloseable {

    private static final Duration PATIENCE = Duration.ofSeconds(10);
    private static final String JSON = "application/json";
    private static final List<Integer> DEPTHS = List.of(10, 30, 60);

    private final URI holtra;
    private final String meterKey;
    private final String loggerSecret;
    private final RandomGenerator random;
    private final Deque<HttpRequest.Builder> slips = new ArrayDeque<>();
    private final HttpClient client = HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .connectTimeout(PATIENCE)
            .build();
    private double first = 4_210;
    private double second = 880;

    /**
     * @param meterKey in the query of the meter's address
     * @param loggerSecret in the path of the logger's addresses
     */
    public OldDevices(URI holtra, String meterKey, String loggerSecret, RandomGenerator random) {
        this.holtra = holtra;
        this.meterKey = meterKey;
        this.loggerSecret = loggerSecret;
        this.random = random;
        slips.add(at("/in/old-meters?key=" + meterKey).GET());
        slips.add(at("/in/old-meter?key=" + meterKey).POST(HttpRequest.BodyPublishers.ofString("{}")));
        slips.add(at("/in/old-meters").POST(HttpRequest.BodyPublishers.ofString("{}")));
    }

    private HttpRequest.Builder at(String path) {
        return HttpRequest.newBuilder(holtra.resolve(path)).timeout(PATIENCE);
    }

    /** The first times, one of the slips. */
    public void meter(Instant now) {
        HttpRequest.Builder slip = slips.poll();
        send(
                slip != null
                        ? slip.header("User-Agent", "meter-gw/1.2")
                        : at("/in/old-meters?key=" + meterKey)
                                .header("Content-Type", JSON)
                                .header("User-Agent", "meter-gw/1.2")
                                .POST(HttpRequest.BodyPublishers.ofByteArray(readings(now))));
    }

    /** What the meter posts once it is set up right. */
    public byte[] readings(Instant now) {
        first += 0.2 + random.nextDouble() * 0.4;
        second += 0.1 + random.nextDouble() * 0.2;
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("at", now.toString());
        body.put(
                "readings",
                List.of(
                        channels("em-01", first, 3_900 + random.nextDouble() * 200),
                        channels("em-02", second, 1_750 + random.nextDouble() * 100)));
        return JsonMapper.shared().writeValueAsBytes(body);
    }

    private static Map<String, Object> channels(String meter, double energy, double power) {
        Map<String, Object> channels = new LinkedHashMap<>();
        channels.put("meter", meter);
        channels.put("ch1", Math.round(energy * 100) / 100.0);
        channels.put("ch2", Math.round(power));
        return channels;
    }

    /** Each depth by itself. */
    public void logger() {
        for (int depth : DEPTHS) {
            String moisture = String.format(Locale.ROOT, "%.1f", 18 + depth / 10.0 + random.nextDouble());
            send(at("/in/soil-logger/" + loggerSecret + "/sl-01/depth-" + depth)
                    .header("Content-Type", "text/plain")
                    .POST(HttpRequest.BodyPublishers.ofString(moisture, StandardCharsets.UTF_8)));
        }
    }

    private void send(HttpRequest.Builder request) {
        client.sendAsync(request.build(), HttpResponse.BodyHandlers.discarding());
    }

    @Override
    public void close() {
        client.shutdownNow();
    }
}
