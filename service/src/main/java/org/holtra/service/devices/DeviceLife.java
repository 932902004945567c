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
import java.util.stream.IntStream;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.time.EventTime;

/**
 * What a device's own messages tell of it, up to the last one.
 *
 * @param firstHeard null if it has never been heard
 * @param sequences its own numbers, by inlet
 * @param values the last known value of each field
 * @param shows what its model says its messages show of it: battery, firmware, link, latitude, longitude
 * @param gateway what the last message told of the gateway: gateway, gatewayLatitude, gatewayLongitude
 * @param recent when its latest messages came, in order
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
        List<Instant> recent,
        boolean silent) {

    public static final DeviceLife UNHEARD =
            new DeviceLife(null, null, null, 0, Map.of(), Map.of(), Map.of(), Map.of(), List.of(), false);

    /** A counter that falls, or leaps by more than this, has started anew (LoRaWAN 1.0.4, section 4.3.1.5). */
    private static final long LARGEST_LEAP = 16_384;

    /** Messages may overtake one another by so many. */
    private static final long OVERTAKEN = 10;

    private static final int RECENT_KEPT = 17;
    private static final int PAUSES_NEEDED = 4;
    private static final Duration LEAST_SILENCE = Duration.ofMinutes(1);

    /** @param at the event time of the message that held it */
    public record Value(Object value, Instant at) {}

    /**
     * @param at when the message came that brought the last one
     * @param missing how many numbers lay between those that came and never came themselves
     * @param restarts how often counting began anew
     */
    public record Sequence(long last, Instant at, long missing, long restarts) {

        /** What came earlier than the last one is told later by another node, and is no restart. */
        Sequence next(long number, Instant came) {
            boolean earlier = came.isBefore(at);
            if (number == last + 1 && !earlier) {
                return new Sequence(number, came, missing, restarts);
            }
            if (number > last && number - last <= LARGEST_LEAP && !earlier) {
                return new Sequence(number, came, missing + number - last - 1, restarts);
            }
            if (number <= last && (earlier || last - number <= OVERTAKEN && number > 1)) {
                // It was overtaken, or comes again: one fewer is missing then, unless it had come before.
                return number == last ? this : new Sequence(last, at, Math.max(0, missing - 1), restarts);
            }
            return earlier ? this : new Sequence(number, came, missing, restarts + 1);
        }
    }

    /**
     * What a message tells.
     *
     * @param sequence the device's own number, or null
     * @param values its fields; empty if it is no reading
     * @param fresh whether it is heard of for the first time, rather than read later than it came
     */
    public record Heard(
            MessageId id,
            String inlet,
            Long sequence,
            Instant eventTime,
            Map<String, Object> values,
            Map<String, Object> shows,
            Map<String, Object> gateway,
            boolean fresh) {

        /** The same of a message that was heard of when it came. */
        public Heard again() {
            return new Heard(id, inlet, sequence, eventTime, values, shows, gateway, false);
        }
    }

    /** The same, however messages are told of in another order than they came, as by several nodes. */
    public DeviceLife after(Heard heard) {
        Instant at = heard.id.received();
        boolean newest = lastHeard == null || !at.isBefore(lastHeard);
        return new DeviceLife(
                firstHeard == null || at.isBefore(firstHeard) ? at : firstHeard,
                newest ? at : lastHeard,
                newest ? heard.id.value() : lastMessage,
                messages + (heard.fresh ? 1 : 0),
                heard.sequence == null ? sequences : withSequence(heard.inlet, heard.sequence, at),
                heard.values.isEmpty() ? values : withValues(heard),
                newest ? merged(shows, heard.shows) : merged(heard.shows, shows),
                heard.gateway.isEmpty() || !newest && !gateway.isEmpty() ? gateway : heard.gateway,
                heard.fresh ? withRecent(at) : recent,
                silent && !newest);
    }

    DeviceLife fallenSilent() {
        return new DeviceLife(
                firstHeard, lastHeard, lastMessage, messages, sequences, values, shows, gateway, recent, true);
    }

    private Map<String, Sequence> withSequence(String inlet, long number, Instant at) {
        Map<String, Sequence> next = new HashMap<>(sequences);
        Sequence before = sequences.get(inlet);
        next.put(inlet, before == null ? new Sequence(number, at, 0, 0) : before.next(number, at));
        return next;
    }

    private Map<String, Value> withValues(Heard heard) {
        Map<String, Value> next = new LinkedHashMap<>(values);
        // A clock that is ahead must not make its value the last known one for days.
        Instant at = EventTime.believed(heard.eventTime, heard.id.received());
        heard.values.forEach((name, value) -> {
            Value before = next.get(name);
            if (before == null) {
                next.put(name.intern(), new Value(value, at)); // a hundred thousand devices have the same few names
            } else if (!at.isBefore(before.at)) {
                next.put(name, new Value(value, at));
            }
        });
        return next;
    }

    private List<Instant> withRecent(Instant at) {
        List<Instant> next = new ArrayList<>(recent);
        int place = next.size();
        while (place > 0 && next.get(place - 1).isAfter(at)) {
            place--;
        }
        next.add(place, at);
        return next.size() <= RECENT_KEPT ? next : List.copyOf(next.subList(1, next.size()));
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
        if (recent.size() <= PAUSES_NEEDED) {
            return Optional.empty();
        }
        List<Long> sorted = IntStream.range(1, recent.size())
                .mapToObj(
                        i -> Duration.between(recent.get(i - 1), recent.get(i)).toSeconds())
                .sorted()
                .toList();
        Duration after = Duration.ofSeconds(3 * sorted.get(sorted.size() - 2));
        return Optional.of(after.compareTo(LEAST_SILENCE) < 0 ? LEAST_SILENCE : after);
    }
}
