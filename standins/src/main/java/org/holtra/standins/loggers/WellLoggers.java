package org.holtra.standins.loggers;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.random.RandomGenerator;
import org.holtra.standins.weather.Weather;

/**
 * The loggers in the cooperative's wells: old devices that publish bare numbers to an MQTT broker, a topic for each. The one at
 * Dunmere was set up with a misspelt base topic.
 */
public final class WellLoggers implements AutoCloseable {

    private static final List<String> WELLS = List.of("ashcombe", "birkholt", "cressing", "dunmere");
    private static final String MISSPELT = "dunmere";
    private static final Duration PAUSE = Duration.ofSeconds(20);
    private static final double DEEPEST = 18;

    private final Mqtt5AsyncClient client;
    private final Weather weather;
    private final double pace;
    private final RandomGenerator random;
    private final ScheduledExecutorService clock = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("well-loggers").factory());

    public WellLoggers(URI broker, String password, Weather weather, double pace, RandomGenerator random) {
        this.weather = weather;
        this.pace = pace;
        this.random = random;
        this.client = MqttClient.builder()
                .identifier("well-loggers")
                .serverHost(broker.getHost())
                .serverPort(broker.getPort())
                .automaticReconnectWithDefaultConfig()
                .useMqttVersion5()
                // Said here it counts whenever it connects anew.
                .simpleAuth()
                .username("loggers")
                .password(password.getBytes(StandardCharsets.UTF_8))
                .applySimpleAuth()
                .buildAsync();
    }

    /** Publishes until it is closed, whatever becomes of the broker meanwhile. */
    public void start() {
        client.connect().exceptionally(failure -> {
            System.err.println("well loggers: " + failure.getMessage());
            return null;
        });
        long millis = Math.max(100, (long) (PAUSE.toMillis() / pace));
        clock.scheduleAtFixedRate(this::publish, 1_000, millis, TimeUnit.MILLISECONDS);
    }

    private void publish() {
        if (!client.getState().isConnected()) {
            return; // a logger of its age keeps nothing
        }
        Weather.At now = weather.at(Instant.now(), 80);
        for (String well : WELLS) {
            String base = well.equals(MISSPELT) ? "larkmoor/well/" : "larkmoor/wells/";
            publish(base + well + "/level", DEEPEST - 4 - random.nextDouble() * 0.2 - well.length() * 0.3);
            publish(base + well + "/temperature", 9.5 + now.air() / 40 + random.nextDouble() * 0.1);
        }
    }

    private void publish(String topic, double value) {
        client.publishWith()
                .topic(topic)
                .payload(String.format(Locale.ROOT, "%.2f", value).getBytes(StandardCharsets.UTF_8))
                .qos(MqttQos.AT_LEAST_ONCE)
                .send();
    }

    @Override
    public void close() {
        clock.shutdownNow();
        client.disconnect();
    }
}
