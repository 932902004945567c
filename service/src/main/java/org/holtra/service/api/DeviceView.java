package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Plain;
import org.holtra.core.setup.Channel;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLife;

/**
 * A device as it is known and as it was heard.
 *
 * @param state {@code unheard}, {@code live}, {@code silent} or {@code barred}
 * @param missing how many of its messages never reached us, by its own numbers
 * @param restarts how often its own numbers began anew
 * @param values last known, by field; null in a list of devices
 * @param channels of its own, in place of its model's
 * @param shows battery, firmware, link, latitude, longitude, where its model says which fields they are
 * @param gateway what its last message told of the gateway, whose position is not the device's
 * @param silentAfterSeconds how long it may be unheard; null if that is not known yet
 */
record DeviceView(
        String key,
        String model,
        Map<String, Object> facts,
        Map<String, Device.Point> points,
        String zone,
        Instant installed,
        String silentAfter,
        List<Channel> channels,
        int revision,
        boolean simulated,
        String state,
        Instant firstHeard,
        Instant lastHeard,
        long messages,
        long missing,
        long restarts,
        Map<String, DeviceLife.Value> values,
        Map<String, Object> shows,
        Map<String, Object> gateway,
        Long silentAfterSeconds) {

    static DeviceView of(Device device, DeviceLife life, Optional<Duration> silentAfter, boolean withValues) {
        Device.Knowledge known = device.knowledge();
        return new DeviceView(
                device.key(),
                known.model(),
                known.facts(),
                known.points(),
                known.zone(),
                known.installed(),
                known.silentAfter(),
                known.channels(),
                device.revision(),
                device.simulated(),
                device.state(life),
                life.firstHeard(),
                life.lastHeard(),
                life.messages(),
                life.sequences().values().stream()
                        .mapToLong(DeviceLife.Sequence::missing)
                        .sum(),
                life.sequences().values().stream()
                        .mapToLong(DeviceLife.Sequence::restarts)
                        .sum(),
                withValues ? values(life) : null,
                plain(life.shows()),
                plain(life.gateway()),
                silentAfter.map(Duration::toSeconds).orElse(null));
    }

    /** Whole numbers as such: JSON does not tell the two apart, people do. */
    private static Map<String, DeviceLife.Value> values(DeviceLife life) {
        Map<String, DeviceLife.Value> values = new LinkedHashMap<>();
        life.values()
                .forEach((name, value) -> values.put(name, new DeviceLife.Value(Plain.of(value.value()), value.at())));
        return values;
    }

    private static Map<String, Object> plain(Map<String, Object> fields) {
        Map<String, Object> plain = new LinkedHashMap<>();
        fields.forEach((name, value) -> plain.put(name, Plain.of(value)));
        return plain;
    }
}
