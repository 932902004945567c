package org.holtra.standins.network;

import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.random.RandomGenerator;
import org.holtra.standins.demo.Orchards;
import org.holtra.standins.demo.Orchards.Place;
import org.holtra.standins.plant.PumpHouses;

/** Lets all devices speak, each at its own beat: those of the network by its server, the masts by themselves. */
public final class Field implements AutoCloseable {

    private static final Duration STATION_EVERY = Duration.ofSeconds(60);
    private static final Duration GAUGE_EVERY = Duration.ofSeconds(90);
    private static final Duration PROBE_EVERY = Duration.ofSeconds(80);
    private static final Duration MAST_EVERY = Duration.ofSeconds(15);
    private static final String LINE_WAS_DOWN = "ph-12";
    private static final Duration LOG = Duration.ofHours(30);
    private static final Duration PUMP_EVERY = Duration.ofSeconds(30);
    private static final Duration OLD_EVERY = Duration.ofSeconds(40);

    /** Who sends for the devices: the network's server, and the masts, the pump houses and the oldest devices themselves. */
    public record Senders(Sender network, Sender masts, PumpHouses pumps, OldDevices old) {}

    private final Devices devices;
    private final Senders senders;
    private final double pace;
    private final RandomGenerator random;
    private final ScheduledExecutorService beats = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().name("field").factory());

    /** @param pace how much faster than usual the devices speak */
    public Field(Devices devices, Senders senders, double pace, RandomGenerator random) {
        this.devices = devices;
        this.senders = senders;
        this.pace = pace;
        this.random = random;
    }

    public void start() {
        for (Place station : Orchards.stations()) {
            every(STATION_EVERY, () -> devices.station(station, Instant.now()).forEach(senders.network::send));
        }
        for (Place gauge : Orchards.gauges()) {
            double hours = GAUGE_EVERY.toMillis() / pace / 3_600_000.0;
            every(GAUGE_EVERY, () -> devices.gauge(gauge, Instant.now(), hours).forEach(senders.network::send));
        }
        for (Place probe : Orchards.probes()) {
            every(PROBE_EVERY, () -> devices.probe(probe, Instant.now()).forEach(senders.network::send));
        }
        for (Place pump : Orchards.pumpHouses()) {
            if (pump.key().equals(LINE_WAS_DOWN)) {
                senders.pumps.sendLate(pump.key(), devices.pumpLog(pump, Instant.now(), LOG));
            }
            every(PUMP_EVERY, () -> senders.pumps.send(pump.key(), devices.pump(pump, Instant.now())));
        }
        for (Place mast : Orchards.masts()) {
            every(MAST_EVERY, () -> devices.mast(mast, Instant.now()).forEach(senders.masts::send));
        }
        every(OLD_EVERY, () -> senders.old.meter(Instant.now()));
        every(OLD_EVERY, senders.old::logger);
    }

    /** The first round comes within seconds, so that nobody stares at an empty page; later ones are spread evenly. */
    private void every(Duration period, Runnable beat) {
        long millis = Math.max(4, (long) (period.toMillis() / pace));
        beats.schedule(beat, random.nextLong(millis / 4), TimeUnit.MILLISECONDS);
        beats.scheduleAtFixedRate(beat, millis / 4 + random.nextLong(millis), millis, TimeUnit.MILLISECONDS);
    }

    @Override
    public void close() {
        beats.shutdownNow();
        senders.network.close();
        senders.masts.close();
        senders.pumps.close();
        senders.old.close();
    }
}
