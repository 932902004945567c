package org.holtra.service.cluster;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;

/**
 * The database's time, which all nodes share, carried on by this machine's steady clock between two looks at it. So nodes
 * whose own clocks differ agree about what is due, and a clock that is set while the service runs changes nothing. Until
 * the first look it is this machine's time.
 */
public final class SharedClock implements InstantSource {

    /** Smaller differences are within what the way to the database takes, and are left alone. */
    private static final Duration NOTEWORTHY = Duration.ofMillis(50);

    private record Anchor(Instant instant, long nanos) {

        Instant at(long now) {
            return instant.plusNanos(now - nanos);
        }
    }

    private volatile Anchor anchor;

    public SharedClock(MachineClock machine) {
        anchor = new Anchor(machine.now(), System.nanoTime());
    }

    @Override
    public Instant instant() {
        return anchor.at(System.nanoTime());
    }

    /**
     * @param database what its clock said
     * @param asked when it was asked, and
     * @param answered when it answered, by {@link System#nanoTime()}
     */
    void set(Instant database, long asked, long answered) {
        long middle = asked + (answered - asked) / 2;
        Duration apart = Duration.between(anchor.at(middle), database).abs();
        if (apart.compareTo(NOTEWORTHY) > 0 && apart.toNanos() > answered - asked) {
            anchor = new Anchor(database, middle);
        }
    }
}
