package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.history.Jump;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What devices sent over time, where numbers of theirs are missing, and where they are. */
@RestController
@RequestMapping("/api/v1/devices")
class HistoryController {

    private static final int MOST_POINTS = 2_000;
    private static final Duration USUAL_SPAN = Duration.ofDays(1);

    /** @param at the event time */
    record Point(Instant at, double value, String message) {}

    /** @param more whether there are more messages in the span than were looked at */
    record Series(String field, String unit, List<Point> points, boolean more) {}

    /** @param missing how many never reached us; negative where numbers began anew */
    record Gap(String inlet, Instant at, long before, long after, long missing, String message) {}

    /** What was sent, and what is needed to read it. */
    @Component
    record Past(Records records, Readings readings, Setups setups) {}

    private final Past past;
    private final DeviceRegistry devices;
    private final DeviceLives lives;
    private final InstantSource clock;

    HistoryController(Past past, DeviceRegistry devices, DeviceLives lives, InstantSource clock) {
        this.past = past;
        this.devices = devices;
        this.lives = lives;
        this.clock = clock;
    }

    /** A numeric field of a device's readings, in the order of their event times. */
    @GetMapping("/series")
    Series series(
            @RequestParam String key,
            @RequestParam String field,
            @RequestParam(required = false) Instant from,
            @RequestParam(required = false) Instant to) {
        Device device = devices.find(key).orElseThrow(() -> Problem.notFound("device", key));
        Setup setup = past.setups.current();
        Instant end = to == null ? clock.instant().plusSeconds(60) : to;
        Instant start = from == null ? end.minus(USUAL_SPAN) : from;
        List<Point> points = new ArrayList<>();
        int looked = 0;
        MessagePage page = MessagePage.EMPTY;
        do {
            MessageId last = page.last();
            page = past.records.messages(
                    MessageQuery.ofReadings(key, start, end, last == null ? null : last.value(), MOST_POINTS - looked));
            looked += page.messages().size();
            for (StoredMessage stored : page.messages()) {
                if (stored.state().equals(StoredMessage.READ)) {
                    point(stored, field, setup, points);
                }
            }
        } while (page.more() && looked < MOST_POINTS);
        points.sort(Comparator.comparing(Point::at));
        String unit = Optional.ofNullable(Readings.model(device, setup))
                .map(model -> model.units().get(field))
                .orElse(null);
        return new Series(field, unit, points, page.more());
    }

    private void point(StoredMessage stored, String field, Setup setup, List<Point> points) {
        try {
            Object value = Fields.flat(
                            past.readings.forHistory().again(stored, setup).data())
                    .get(field);
            if (value instanceof Number number) {
                points.add(new Point(
                        stored.eventTime(), number.doubleValue(), stored.id().toString()));
            }
        } catch (UnreadableContent e) {
            // Today's codec cannot read it: the plot has a gap there, and the message's own page says why.
            return;
        }
    }

    /** Where the device's own numbers for its messages jump. */
    @GetMapping("/gaps")
    List<Gap> gaps(
            @RequestParam String key,
            @RequestParam(required = false) Instant from,
            @RequestParam(required = false) Instant to) {
        Instant end = to == null ? clock.instant().plusSeconds(60) : to;
        Instant start = from == null ? end.minus(USUAL_SPAN) : from;
        List<Gap> gaps = new ArrayList<>();
        for (String inlet : lives.of(key).sequences().keySet()) {
            for (Jump jump : past.records.jumps(key, inlet, start, end)) {
                gaps.add(new Gap(
                        inlet,
                        jump.received(),
                        jump.before(),
                        jump.sequence(),
                        jump.sequence() - jump.before() - 1,
                        jump.id().toString()));
            }
        }
        return gaps;
    }

    /** More dots than these nobody tells apart on a map. */
    private static final int MOST_ON_MAP = 5_000;

    /** Where devices are, and where the gateways that heard them are: two different things. GeoJSON (RFC 7946). */
    @GetMapping("/positions")
    Map<String, Object> positions() {
        List<Map<String, Object>> features = new ArrayList<>();
        Map<String, Map<String, Object>> gateways = new LinkedHashMap<>();
        for (Device device : devices.after(null, MOST_ON_MAP)) {
            var life = lives.of(device.key());
            Object latitude = life.shows()
                    .getOrDefault("latitude", device.knowledge().facts().get("latitude"));
            Object longitude = life.shows()
                    .getOrDefault("longitude", device.knowledge().facts().get("longitude"));
            if (latitude instanceof Number lat && longitude instanceof Number lon) {
                features.add(
                        feature("device", device.key(), lat, lon, life.gateway().get("gateway")));
            }
            if (life.gateway().get("gatewayLatitude") instanceof Number lat
                    && life.gateway().get("gatewayLongitude") instanceof Number lon) {
                String name = String.valueOf(life.gateway().getOrDefault("gateway", "unnamed"));
                gateways.putIfAbsent(name, feature("gateway", name, lat, lon, null));
            }
        }
        features.addAll(gateways.values());
        return Map.of("type", "FeatureCollection", "features", features);
    }

    private static Map<String, Object> feature(
            String type, String name, Number latitude, Number longitude, Object gateway) {
        Map<String, Object> properties = new LinkedHashMap<>();
        properties.put("type", type);
        properties.put("name", name);
        if (gateway != null) {
            properties.put("gateway", gateway);
        }
        return Map.of(
                "type",
                "Feature",
                "geometry",
                Map.of("type", "Point", "coordinates", List.of(longitude, latitude)),
                "properties",
                properties);
    }
}
