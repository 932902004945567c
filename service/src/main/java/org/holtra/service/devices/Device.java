package org.holtra.service.devices;

import java.time.Instant;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.reading.Known;
import org.holtra.core.setup.Channel;
import org.holtra.core.setup.Model;

/**
 * What people know of a device.
 *
 * @param barred its messages are kept and picked by no lane
 * @param revision counts the changes of what is known, from 1
 */
public record Device(String key, Knowledge knowledge, boolean barred, int revision, boolean simulated) {

    /**
     * @param model the name of its model, or null
     * @param facts by name
     * @param points what is known of its measuring points, by name
     * @param zone its time zone, or null
     * @param installed since when it is in place, or null
     * @param silentAfter how long it may be unheard, such as 3h; null to go by its model or its rhythm
     * @param channels of its own, in place of its model's; empty for those of its model, null where nothing is said of them
     */
    public record Knowledge(
            String model,
            Map<String, Object> facts,
            Map<String, Point> points,
            String zone,
            Instant installed,
            String silentAfter,
            List<Channel> channels) {

        public static final Knowledge NOTHING = new Knowledge(null, Map.of(), Map.of(), null, null, null, List.of());

        public Knowledge {
            facts = facts == null ? Map.of() : facts;
            points = points == null ? Map.of() : points;
        }

        /** The same, with these facts. */
        public Knowledge with(Map<String, Object> others) {
            return new Knowledge(model, others, points, zone, installed, silentAfter, channels);
        }

        /** The same, with these channels. */
        public Knowledge with(List<Channel> wired) {
            return new Knowledge(model, facts, points, zone, installed, silentAfter, wired);
        }

        /** Where nothing is said of channels, those there were. */
        public Knowledge after(Knowledge before) {
            return channels != null ? this : with(before == null ? List.of() : before.channels);
        }
    }

    /** @param reference what the point is called elsewhere, or null */
    public record Point(String reference, Map<String, Object> facts) {

        public Point {
            facts = facts == null ? Map.of() : facts;
        }
    }

    public String model() {
        return knowledge.model();
    }

    /**
     * As expressions see it.
     *
     * @param model its model, or null
     */
    public Map<String, Object> scope(Model model) {
        Map<String, Object> scope = new LinkedHashMap<>();
        scope.put("key", key);
        if (knowledge.model() != null) {
            scope.put("model", knowledge.model());
        }
        if (knowledge.zone() != null) {
            scope.put("zone", knowledge.zone());
        }
        scope.put("facts", with(model == null ? Map.of() : model.facts(), knowledge.facts()));
        scope.put("points", points(model));
        scope.put("simulated", simulated);
        return scope;
    }

    private Map<String, Object> points(Model model) {
        Map<String, Object> all = new LinkedHashMap<>();
        if (model != null) {
            model.points()
                    .forEach((name, point) -> all.put(
                            name, point(point.facts(), knowledge.points().get(name))));
        }
        knowledge.points().forEach((name, point) -> all.putIfAbsent(name, point(Map.of(), point)));
        return all;
    }

    private static Map<String, Object> point(Map<String, Object> usual, Point own) {
        Map<String, Object> seen = new LinkedHashMap<>();
        if (own != null && own.reference() != null) {
            seen.put("reference", own.reference());
        }
        seen.put("facts", with(usual, own == null ? Map.of() : own.facts()));
        return seen;
    }

    private static Map<String, Object> with(Map<String, Object> usual, Map<String, Object> own) {
        Map<String, Object> both = new LinkedHashMap<>(usual);
        both.putAll(own);
        return both;
    }

    /** What reading its messages needs to know. */
    public Known forReading(Model model) {
        return new Known(model, knowledge.zone() == null ? null : ZoneId.of(knowledge.zone()), knowledge.installed());
    }

    /** Whether it is {@code unheard}, {@code live}, {@code silent} or {@code barred}. */
    public String state(DeviceLife life) {
        if (barred) {
            return "barred";
        }
        return life.lastHeard() == null ? "unheard" : life.silent() ? "silent" : "live";
    }
}
