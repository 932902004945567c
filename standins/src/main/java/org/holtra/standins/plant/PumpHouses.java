package org.holtra.standins.plant;

import java.net.URI;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import tools.jackson.databind.json.JsonMapper;

/** The pump houses of the cooperative, each the edge node of a plant that speaks Sparkplug B over the MQTT broker. */
public final class PumpHouses implements AutoCloseable {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String FAILING = "ph-07";

    /** So many reports it makes, and so many it then misses. */
    private static final int ALIVE = 10;

    private static final int GONE = 3;
    private static final Duration A_MOMENT = Duration.ofMillis(100);

    private final Map<String, PumpHouse> houses = new LinkedHashMap<>();
    private final URI broker;
    private final String password;
    private int reports;

    public PumpHouses(URI broker, String password) {
        this.broker = broker;
        this.password = password;
    }

    /** @param report of the pump, in JSON */
    public synchronized void send(String name, byte[] report) {
        PumpHouse house = houses.computeIfAbsent(name, its -> new PumpHouse(its, broker, "pump-houses", password));
        if (name.equals(FAILING) && ++reports % (ALIVE + GONE) >= ALIVE) {
            house.die();
            return;
        }
        house.report(values(report), System.currentTimeMillis());
    }

    private static Map<String, Object> values(byte[] report) {
        Map<String, Object> values = new LinkedHashMap<>();
        JSON.readTree(report).properties().forEach(field -> {
            if (field.getValue().isNumber()) {
                values.put(field.getKey(), field.getValue().numberValue());
            }
        });
        return values;
    }

    /** What a pump house kept while its line was down; sent once it is born. */
    public void sendLate(String name, List<byte[]> log) {
        send(name, log.getLast());
        PumpHouse house;
        synchronized (this) {
            house = houses.get(name);
        }
        Thread.startVirtualThread(() -> {
            while (!house.isBorn()) {
                LockSupport.parkNanos(A_MOMENT.toNanos());
            }
            for (byte[] report : log) {
                long at = Instant.parse(JSON.readTree(report).path("at").asString())
                        .toEpochMilli();
                house.late(values(report), at, System.currentTimeMillis());
                LockSupport.parkNanos(A_MOMENT.toNanos());
            }
        });
    }

    @Override
    public void close() {
        houses.values().forEach(PumpHouse::close);
    }
}
