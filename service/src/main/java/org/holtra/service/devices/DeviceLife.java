package org.holtra.service.devices;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/**
 * What a device's own messages tell of it, up to the last one.
 *
 * @param firstHeard null if it has never been heard
 * @param sequences its own numbers, by inlet
 * @param values the last known value of each field
 * @param shows what its model says its messages show of it: battery, firmware, link, latitude, longitude
 * @param gateway what the last message told of the gateway: gateway, gatewayLatitude, gatewayLongitude
 * @param rhythm the last times between messages, in seconds
 * @param silent whether it has been unheard too long
 */
public record DeviceLife(
        Instant firstHeard,
        Instant lastHeard,
        UUID lastMessage,
        long messages,
        Map<String, Sequence> sequences,
        Map<String, Value> values,
        Map<String, Object> shows,
        Map<String, Object> gateway,
        List<Long> rhythm,
        boolean silent) {

    public static final DeviceLife UNHEARD =
            new DeviceLife(null, null, null, 0, Map.of(), Map.of(), Map.of(), Map.of(), List.of(), false);

    /** A counter that falls, or leaps by more than this, has started anew (LoRaWAN 1.0.4, section 4.3.1.5). */
    private static final long LARGEST_LEAP = 16_384;

    /** Messages may overtake one another by so many. */
    private static final long OVERTAKEN = 10;

    private static final int RHYTHM_KEPT = 16;
    private static final int RHYTHM_NEEDED = 4;
    private static final Duration LEAST_SILENCE = Duration.ofMinutes(1);

    /** @param at the event time of the message that held it */
    public record Value(Object value, Instant at) {}

    /**
     * @param missing how many numbers lay between those that came and never came themselves
     * @param restarts how often counting began anew
     */
    public record Sequence(long last, long missing, long restarts) {

        Sequence next(long number) {
            if (number == last + 1) {
                return new Sequence(number, missing, restarts);
            }
            if (number > last && number - last <= LARGEST_LEAP) {
                return new Sequence(number, missing + number - last - 1, restarts);
            }
            if (number <= last && last - number <= OVERTAKEN && number > 1) {
                // It was overtaken, or comes again: one fewer is missing then, unless it had come before.
                return number == last ? this : new Sequence(last, Math.max(0, missing - 1), restarts);
            }
            return new Sequence(number, missing, restarts + 1);
        }
    }

    /**
     * What a message tells.
     *
     * @param sequence the device's own number, or null
     * @param values its fields; empty if it is no reading
     */
    public record Heard(
            MessageId id,
            String inlet,
            Long sequence,
            Instant eventTime,
            Map<String, Object> values,
            Map<String, Object> shows,
            Map<String, Object> gateway) {}

    public DeviceLife after(Heard heard) {
        Instant at = heard.id.received();
        boolean newest = lastHeard == null || !at.isBefore(lastHeard);
        return new DeviceLife(
                firstHeard == null ? at : firstHeard,
                newest ? at : lastHeard,
                newest ? heard.id.value() : lastMessage,
                messages + 1,
                heard.sequence == null ? sequences : withSequence(heard.inlet, heard.sequence),
                heard.values.isEmpty() ? values : withValues(heard),
                merged(shows, heard.shows),
                heard.gateway.isEmpty() ? gateway : heard.gateway,
                lastHeard == null || !newest
                        ? rhythm
                        : withRhythm(Duration.between(lastHeard, at).toSeconds()),
                false);
    }

    DeviceLife fallenSilent() {
        return new DeviceLife(
                firstHeard, lastHeard, lastMessage, messages, sequences, values, shows, gateway, rhythm, true);
    }

    private Map<String, Sequence> withSequence(String inlet, long number) {
        Map<String, Sequence> next = new HashMap<>(sequences);
        Sequence before = sequences.get(inlet);
        next.put(inlet, before == null ? new Sequence(number, 0, 0) : before.next(number));
        return next;
    }

    private Map<String, Value> withValues(Heard heard) {
        Map<String, Value> next = new LinkedHashMap<>(values);
        heard.values.forEach((name, value) -> {
            Value before = next.get(name);
            if (before == null || !heard.eventTime.isBefore(before.at)) {
                next.put(name, new Value(value, heard.eventTime));
            }
        });
        return next;
    }

    private List<Long> withRhythm(long seconds) {
        List<Long> next = new ArrayList<>(rhythm);
        next.add(seconds);
        return next.size() <= RHYTHM_KEPT ? next : List.copyOf(next.subList(1, next.size()));
    }

    private static Map<String, Object> merged(Map<String, Object> before, Map<String, Object> now) {
        if (now.isEmpty()) {
            return before;
        }
        Map<String, Object> both = new LinkedHashMap<>(before);
        both.putAll(now);
        return both;
    }

    /**
     * After how long it is silent by its own rhythm: three times its second longest pause of late, at least a minute.
     * Empty as long as it has been heard too seldom to tell.
     */
    public Optional<Duration> ownSilence() {
        if (rhythm.size() < RHYTHM_NEEDED) {
            return Optional.empty();
        }
        List<Long> sorted = rhythm.stream().sorted().toList();
        Duration after = Duration.ofSeconds(3 * sorted.get(sorted.size() - 2));
        return Optional.of(after.compareTo(LEAST_SILENCE) < 0 ? LEAST_SILENCE : after);
    }
}
