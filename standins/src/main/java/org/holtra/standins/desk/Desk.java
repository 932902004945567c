package org.holtra.standins.desk;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** What the works desk knows: the orders it took, each once, however often it was sent. */
public final class Desk {

    /**
     * An order as it came.
     *
     * @param key the idempotency key it came under
     * @param times how often it came
     */
    public record Order(int number, Instant at, String door, String key, String body, boolean simulated, int times) {}

    /** @param received all requests it took, doubles included */
    public record Count(long received, long distinct, long doubles) {}

    private static final int SHOWN = 200;

    private final InstantSource clock;
    private final Map<String, Integer> timesByKey = new HashMap<>();
    private final Deque<Order> newest = new ArrayDeque<>();
    private final Map<String, Mood> moods = new HashMap<>();
    private long received;

    public Desk(InstantSource clock) {
        this.clock = clock;
    }

    /** @return the order's number; the same for the same key */
    public synchronized int take(String door, String key, String body, boolean simulated) {
        received++;
        int times = timesByKey.merge(key, 1, Integer::sum);
        if (times > 1) {
            newest.stream().filter(order -> order.key().equals(key)).findFirst().ifPresent(order -> {
                newest.remove(order);
                newest.addFirst(new Order(
                        order.number(), order.at(), order.door(), key, order.body(), order.simulated(), times));
            });
            return newest.isEmpty() ? 0 : newest.peekFirst().number();
        }
        int number = timesByKey.size();
        newest.addFirst(new Order(number, clock.instant(), door, key, body, simulated, 1));
        if (newest.size() > SHOWN) {
            newest.removeLast();
        }
        return number;
    }

    public synchronized List<Order> orders() {
        return List.copyOf(newest);
    }

    public synchronized Count count() {
        return new Count(received, timesByKey.size(), received - timesByKey.size());
    }

    /** How often each key came. */
    public synchronized Map<String, Integer> keys() {
        return Map.copyOf(timesByKey);
    }

    public synchronized Mood mood(String door) {
        return moods.getOrDefault(door, Mood.well()).at(clock.instant());
    }

    public synchronized void setMood(String door, Mood mood) {
        moods.put(door, mood);
    }
}
