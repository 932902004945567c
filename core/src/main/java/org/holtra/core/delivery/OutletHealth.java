package org.holtra.core.delivery;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashSet;
import java.util.Locale;
import java.util.Set;

/**
 * What is known of an outlet's destination, and what follows for its deliveries. Immutable: each verdict makes the next
 * one.
 *
 * <ul>
 *   <li><i>flowing</i>: attempts are made as they come;
 *   <li><i>paused</i>: the destination said when to come back;
 *   <li><i>broken</i>: it cannot be reached; one delivery at a time probes it;
 *   <li><i>blocked</i>: it refuses our credential; one delivery at a time probes it, rarely, and a changed credential or
 *       setup frees it at once. The give-up clock of its deliveries stands still.
 *   <li><i>closed</i>: a person closed it; nothing is tried until it is opened. The give-up clock stands still here too.
 * </ul>
 *
 * @param reason why it is not flowing; null while it is
 * @param since when it came into this state
 * @param nextProbe when it may be tried again; null while flowing or closed
 * @param probes how many probes have failed in a row
 * @param stopped the time it was blocked or closed in all, without what lasts
 * @param refusedDevices the devices whose deliveries were held in a row, without another verdict between
 */
public record OutletHealth(
        State state,
        String reason,
        Instant since,
        Instant nextProbe,
        int probes,
        Duration stopped,
        Set<String> refusedDevices) {

    public enum State {
        FLOWING,
        PAUSED,
        BROKEN,
        BLOCKED,
        CLOSED;

        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** So many different devices held in a row mean that it is the credential which lacks a permission. */
    static final int DEVICES_THAT_BLOCK = 3;

    private static final Duration FIRST_PROBE = Duration.ofSeconds(1);
    private static final Duration RAREST_PROBE_OF_BROKEN = Duration.ofSeconds(30);
    private static final Duration FIRST_PROBE_OF_BLOCKED = Duration.ofSeconds(15);
    private static final Duration RAREST_PROBE_OF_BLOCKED = Duration.ofMinutes(5);

    public static OutletHealth flowing(Instant now) {
        return new OutletHealth(State.FLOWING, null, now, null, 0, Duration.ZERO, Set.of());
    }

    public boolean flows() {
        return state == State.FLOWING;
    }

    /** Whether an attempt may be made now, given how many are under way. */
    public boolean admits(Instant now, int inFlight) {
        return flows()
                || state != State.CLOSED && (!now.isBefore(nextProbe) && (inFlight == 0 || state == State.PAUSED));
    }

    /** @param device whose delivery it was, or null */
    public OutletHealth after(Verdict verdict, String device, Instant now) {
        if (state == State.CLOSED) {
            return this;
        }
        return switch (verdict) {
            case Verdict.Delivered ignored -> flowing(now, Set.of());
            case Verdict.Refused ignored -> flowing(now, Set.of());
            case Verdict.DeviceUnknown ignored -> flowing(now, Set.of());
            case Verdict.OutletBlocked(String why) -> stopped(State.BLOCKED, why, now, Set.of());
            case Verdict.DeviceHeld(String why) -> held(why, device, now);
            case Verdict.TryLater(String why, Instant notBefore, boolean unknown, boolean broken) -> {
                if (broken) {
                    yield stopped(State.BROKEN, why, now, Set.of());
                }
                yield notBefore != null && notBefore.isAfter(now)
                        ? new OutletHealth(State.PAUSED, why, now, notBefore, 0, settled(now), Set.of())
                        : flowing(now, Set.of());
            }
        };
    }

    /**
     * The same with its next probe moved by up to a quarter of the time until then, so that destinations that went away
     * together are not all probed together.
     *
     * @param chance from 0 to 1
     */
    public OutletHealth spread(double chance, Instant now) {
        if (nextProbe == null || state != State.BROKEN && state != State.BLOCKED) {
            return this;
        }
        double factor = 0.75 + chance / 2;
        Instant moved =
                now.plusMillis((long) (factor * Duration.between(now, nextProbe).toMillis()));
        return new OutletHealth(state, reason, since, moved, probes, stopped, refusedDevices);
    }

    /** The credential or the setup was changed, or a person asked to try again: let it flow, and see. */
    public OutletHealth mended(Instant now) {
        return state == State.CLOSED ? this : flowing(now, Set.of());
    }

    /** It takes nothing before then, as its pace or the destination has it. */
    public OutletHealth paused(String why, Instant until, Instant now) {
        return flows() ? new OutletHealth(State.PAUSED, why, now, until, 0, settled(now), refusedDevices) : this;
    }

    /** A person closed it. */
    public OutletHealth closed(Instant now) {
        return state == State.CLOSED
                ? this
                : new OutletHealth(State.CLOSED, "a person closed it", now, null, 0, settled(now), Set.of());
    }

    /** It is open: if it was closed, let it flow, and see. */
    public OutletHealth opened(Instant now) {
        return state == State.CLOSED ? flowing(now, Set.of()) : this;
    }

    /** A clock that stands still while the outlet is blocked or closed; give-up times are told on it. */
    public Instant patience(Instant now) {
        return now.minus(settled(now));
    }

    private OutletHealth held(String why, String device, Instant now) {
        Set<String> row = new LinkedHashSet<>(refusedDevices);
        row.add(device == null ? "" : device);
        return row.size() >= DEVICES_THAT_BLOCK
                ? stopped(State.BLOCKED, why + "; the last " + row.size() + " devices were all refused", now, row)
                : flowing(now, Set.copyOf(row));
    }

    private OutletHealth flowing(Instant now, Set<String> row) {
        if (flows()) {
            return row.equals(refusedDevices)
                    ? this
                    : new OutletHealth(State.FLOWING, null, since, null, 0, stopped, row);
        }
        return new OutletHealth(State.FLOWING, null, now, null, 0, settled(now), row);
    }

    private OutletHealth stopped(State next, String why, Instant now, Set<String> row) {
        boolean lasts = state == next;
        int failed = lasts ? probes + 1 : 1;
        return new OutletHealth(
                next,
                why,
                lasts ? since : now,
                now.plus(probeDelay(next, failed)),
                failed,
                lasts ? stopped : settled(now),
                row);
    }

    private static Duration probeDelay(State state, int failed) {
        Duration first = state == State.BLOCKED ? FIRST_PROBE_OF_BLOCKED : FIRST_PROBE;
        Duration rarest = state == State.BLOCKED ? RAREST_PROBE_OF_BLOCKED : RAREST_PROBE_OF_BROKEN;
        Duration grown = first.multipliedBy(1L << Math.min(failed - 1, 16));
        return grown.compareTo(rarest) < 0 ? grown : rarest;
    }

    private Duration settled(Instant now) {
        return (state == State.BLOCKED || state == State.CLOSED) && now.isAfter(since)
                ? stopped.plus(Duration.between(since, now))
                : stopped;
    }
}
