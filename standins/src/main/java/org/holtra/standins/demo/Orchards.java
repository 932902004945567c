package org.holtra.standins.demo;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/** What stands where in the orchards of the Larkmoor Growers' Cooperative, an invented one. */
public final class Orchards {

    /**
     * A device and where it stands.
     *
     * @param altitude in metres; the lowest rows are the frost-prone ones
     */
    public record Place(String key, String model, String orchard, int row, String variety, int altitude) {

        private static final int FROST_PRONE_BELOW = 96;

        public boolean frostProne() {
            return altitude < FROST_PRONE_BELOW;
        }

        /** The rows of an orchard lie north of one another, its devices east. */
        public double latitude() {
            return rounded(corner(orchard)[0] + row * 0.0011);
        }

        public double longitude() {
            return rounded(corner(orchard)[1] + Math.floorMod(key.hashCode(), 40) * 0.0003);
        }

        /** What the site's own drawings call it, such as ASH.R03.CS07. */
        public String tag() {
            return "%s.R%02d.%s"
                    .formatted(
                            orchard.substring(0, 3).toUpperCase(Locale.ROOT),
                            row,
                            key.replace("-", "").toUpperCase(Locale.ROOT));
        }

        /** What people know of the device and it does not send. */
        public Map<String, Object> facts() {
            Map<String, Object> facts = new LinkedHashMap<>();
            facts.put("orchard", orchard);
            facts.put("row", row);
            if (variety != null) {
                facts.put("variety", variety);
                facts.put("frostProne", frostProne());
            }
            facts.put("tag", tag());
            facts.put("altitude", altitude);
            facts.put("latitude", latitude());
            facts.put("longitude", longitude());
            return facts;
        }
    }

    private static final List<String> NAMES = List.of("Ashcombe", "Birkholt", "Cressing", "Dunmere");
    private static final List<String> VARIETIES =
            List.of("Ember Pippin", "Larkmoor Russet", "Vale Queen", "Black Corvan", "Early Merise");
    private static final int STATIONS = 60;
    private static final int GAUGES = 18;
    private static final int MASTS = 6;
    private static final int PROBES = 24;
    private static final int PUMP_HOUSES = 12;

    private Orchards() {}

    /** Of all orchards. */
    public static List<String> names() {
        return NAMES;
    }

    /** 60 climate stations, fifteen in each orchard, the first rows lowest. */
    public static List<Place> stations() {
        List<Place> places = new ArrayList<>();
        for (int i = 0; i < STATIONS; i++) {
            int row = 1 + i / NAMES.size();
            places.add(new Place(
                    "cs-%02d".formatted(i + 1),
                    "climate-station",
                    NAMES.get(i % NAMES.size()),
                    row,
                    VARIETIES.get(i * 7 % VARIETIES.size()),
                    82 + row * 4 + i % NAMES.size() * 3));
        }
        return places;
    }

    public static List<Place> gauges() {
        return others("rg", "rain-gauge", GAUGES);
    }

    /** 24 soil probes, three depths each. */
    public static List<Place> probes() {
        return others("sp", "soil-probe", PROBES);
    }

    public static List<Place> masts() {
        return others("wm", "weather-mast", MASTS);
    }

    public static List<Place> pumpHouses() {
        return others("ph", "pump-house", PUMP_HOUSES);
    }

    /** Where the gateway of an orchard stands, or the one on the ridge above them all. */
    public static Map<String, Object> gateway(String name) {
        double[] at = corner(name);
        return Map.of("lat", rounded(at[0] + 0.009), "lon", rounded(at[1] + 0.013), "alt", 131);
    }

    private static double[] corner(String orchard) {
        return switch (orchard) {
            case "Ashcombe" -> new double[] {12.512, -41.262};
            case "Birkholt" -> new double[] {12.534, -41.254};
            case "Cressing" -> new double[] {12.508, -41.231};
            case "Dunmere" -> new double[] {12.533, -41.226};
            default -> new double[] {12.551, -41.243};
        };
    }

    private static double rounded(double degrees) {
        return Math.round(degrees * 1e5) / 1e5;
    }

    private static List<Place> others(String prefix, String model, int count) {
        List<Place> places = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            places.add(new Place(
                    "%s-%02d".formatted(prefix, i + 1),
                    model,
                    NAMES.get(i % NAMES.size()),
                    1 + i / NAMES.size() * 3,
                    null,
                    90 + i * 11 % 60));
        }
        return places;
    }
}
