package org.holtra.standins.network;

import static org.holtra.standins.network.Devices.rounded;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.random.RandomGenerator;
import org.holtra.standins.demo.Orchards.Place;
import tools.jackson.databind.json.JsonMapper;

/** A pump with its meters of water and energy, which only rise, but for one whose energy meter was put in new. */
final class Pump {

    private static final String NEW_METER = "ph-04";
    private static final int NEW_METER_AFTER = 60;
    private static final double KILOWATTS_AN_AMPERE = 0.66;

    private final Place place;
    private final RandomGenerator random;
    private State state = State.RUNNING;
    private Instant last;
    private double flow;
    private double current;
    private double water;
    private double energy;
    private int reports;

    Pump(Place place, RandomGenerator random) {
        this.place = place;
        this.random = random;
        this.water = 12_000 + Math.floorMod(place.key().hashCode() * 31, 9_000);
        this.energy = water * 0.29;
    }

    /** What it moved since the last report is in the meters. */
    byte[] report(Instant now) {
        if (last != null) {
            double hours = Duration.between(last, now).toMillis() / 3_600_000.0;
            water += flow * hours;
            energy += current * KILOWATTS_AN_AMPERE * hours;
        }
        if (place.key().equals(NEW_METER) && ++reports == NEW_METER_AFTER) {
            energy = 0;
        }
        last = now;
        state = state.next(random);
        boolean runs = state == State.RUNNING;
        flow = runs ? rounded(38 + random.nextDouble() * 9, 1) : 0;
        current = state == State.BLOCKED ? 31.5 : runs ? rounded(17 + random.nextDouble() * 2, 1) : 0;
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("pump", place.key());
        body.put("at", now.toString());
        body.put("simulated", true);
        body.put("state", state.code);
        body.put("flow", flow);
        body.put("pressure", runs ? rounded(4.1 + random.nextDouble() * 0.6, 2) : 0.3);
        body.put("current", current);
        body.put("water", rounded(water, 2));
        body.put("energy", rounded(energy, 2));
        return JsonMapper.shared().writeValueAsBytes(body);
    }

    /** The states of a pump, with the codes it sends for them. */
    private enum State {
        OFF(0),
        RUNNING(1),
        BLOCKED(3),
        DRY(7);

        private static final double LEAVES = 0.06;

        private final int code;

        State(int code) {
            this.code = code;
        }

        private State next(RandomGenerator random) {
            if (this != RUNNING) {
                return random.nextDouble() < LEAVES * 4 ? RUNNING : this;
            }
            return random.nextDouble() < LEAVES ? values()[random.nextInt(values().length)] : this;
        }
    }
}
