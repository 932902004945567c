package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Pace;
import org.holtra.core.delivery.Verdict;
import org.holtra.service.connections.Thing;
import org.holtra.service.devices.DeviceEvent;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * How an outlet and its devices stand, by what came of deliveries, by its setup and by what other nodes found. Guarded by
 * its runner's lock. Once it flows again, the table is asked for at once.
 */
final class OutletStanding {

    private static final Logger log = LoggerFactory.getLogger(OutletStanding.class);

    private final String outlet;
    private final DispatchContext context;
    private final ReentrantLock lock;
    private final Settling.Lookout lookout;
    private final HeldDevices held;
    private OutletHealth health;

    OutletStanding(
            String outlet,
            DispatchContext context,
            ReentrantLock lock,
            Settling.Lookout lookout,
            OutletHealthStore.Remembered remembered) {
        this.outlet = outlet;
        this.context = context;
        this.lock = lock;
        this.lookout = lookout;
        this.held = new HeldDevices(remembered.held());
        this.health = remembered.health();
    }

    OutletHealth health() {
        lock.lock();
        try {
            return health;
        } finally {
            lock.unlock();
        }
    }

    List<HeldDevices.Held> held() {
        lock.lock();
        try {
            return held.all();
        } finally {
            lock.unlock();
        }
    }

    /** Until when the device of a delivery is held; empty if it is not. */
    Optional<Instant> heldUntil(Task task, Instant now) {
        lock.lock();
        try {
            return held.until(task.device(), now);
        } finally {
            lock.unlock();
        }
    }

    /** The setup says whether it is open. */
    void configured(boolean closed, Instant now) {
        lock.lock();
        try {
            become(closed ? health.closed(now) : health.opened(now));
        } finally {
            lock.unlock();
        }
    }

    /** A change or a person may have mended it and whatever held its devices. */
    void mend(Instant now) {
        lock.lock();
        try {
            become(health.mended(now));
            if (held.freeAll()) {
                context.healths().changedHeld(outlet, held.all());
            }
            lookout.lookAt(now);
        } finally {
            lock.unlock();
        }
    }

    /**
     * A person may have mended what held devices.
     *
     * @param device null for all
     * @return those that were held
     */
    List<String> free(String device, Instant now) {
        lock.lock();
        try {
            List<String> freed = held.all().stream()
                    .map(HeldDevices.Held::device)
                    .filter(one -> device == null || one.equals(device))
                    .toList();
            freed.forEach(held::free);
            if (!freed.isEmpty()) {
                context.healths().changedHeld(outlet, held.all());
                lookout.lookAt(now);
            }
            return freed;
        } finally {
            lock.unlock();
        }
    }

    /** Its pace or a quota lets nothing more go for now. */
    void pause(Pace.Grant refusal, Instant now) {
        lock.lock();
        try {
            become(health.paused(refusal.why(), refusal.until(), now));
        } finally {
            lock.unlock();
        }
    }

    /** Something in the table is due. */
    void look() {
        lookout.lookAt(context.clock().instant());
    }

    /** What an attempt says about the outlet and the device. */
    void weigh(Verdict verdict, Task task, Instant now) {
        String device = task.device();
        boolean isNew = false;
        lock.lock();
        try {
            OutletHealth next = health.after(verdict, device, now);
            become(
                    next.equals(health)
                            ? next
                            : next.spread(ThreadLocalRandom.current().nextDouble(), now));
            if (verdict instanceof Verdict.DeviceHeld(String reason)) {
                isNew = held.hold(device, reason, now, now.plus(Fate.HELD));
                context.healths().changedHeld(outlet, held.all());
            } else if (verdict instanceof Verdict.Delivered && held.free(device)) {
                context.healths().changedHeld(outlet, held.all());
            }
        } finally {
            lock.unlock();
        }
        if (isNew) {
            context.events()
                    .publishEvent(new DeviceEvent(
                            device,
                            DeviceEvent.What.HELD_AT_OUTLET,
                            now,
                            Map.of("outlet", outlet, "reason", verdict.reason())));
        }
    }

    /** Another node found this outlet's destination so. What this node knows later counts more. */
    void hear(OutletHealth other, Instant now) {
        lock.lock();
        try {
            if (other.since().isAfter(health.since())
                    && other.state() != health.state()
                    && other.state() != OutletHealth.State.CLOSED
                    && health.state() != OutletHealth.State.CLOSED) {
                health = other;
                lookout.lookAt(now);
            }
        } finally {
            lock.unlock();
        }
    }

    private void become(OutletHealth next) {
        if (next.state() != health.state()) {
            String line = next.state().word() + (next.reason() == null ? "" : ": " + next.reason());
            log.info("Outlet {} is {}", outlet, line);
            context.diary().write(Thing.outlet(outlet), line, null);
            if (next.flows()) {
                lookout.lookAt(context.clock().instant());
            }
        }
        if (!next.equals(health)) {
            health = next;
            context.healths().changed(outlet, next);
        }
    }
}
