package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.Settlement;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;

/**
 * Sends what is owed to one outlet, as many at once as it allows. It shares nothing with other outlets but the journal, so
 * that a slow, broken or blocked one costs them nothing. First attempts come from memory; the table is read for what
 * found no room there, for retries and for what another process left.
 */
final class OutletRunner {

    /** How much is claimed at a time: enough to keep the destination busy until the next look. */
    private static final int CLAIM = 200;

    private static final Duration PAUSE_AFTER_FAULT = Duration.ofSeconds(30);
    private static final Duration LOOK_AGAIN_AFTER_TROUBLE = Duration.ofSeconds(2);
    private static final Logger log = LoggerFactory.getLogger(OutletRunner.class);

    private final String name;
    private final Workshop workshop;
    private final ReentrantLock lock = new ReentrantLock();
    private final LaneQueues queues;
    private final HeldDevices held = new HeldDevices();
    private Outlet outlet;
    private Set<String> closedLanes = Set.of();
    private SharedChannel channel;
    private OutletHealth health;
    private int inFlight;
    private boolean looking;
    private boolean closed;
    private Instant nextLook;

    OutletRunner(String name, Workshop workshop, OutletHealth health) {
        this.name = name;
        this.workshop = workshop;
        this.queues = new LaneQueues(workshop.budget());
        this.health = health;
        this.nextLook = workshop.clock().instant();
    }

    /** The lanes that deliver here. What closed ones owe stays in the table. */
    record Lanes(Set<String> open, Set<String> closed) {

        static final Lanes NONE = new Lanes(Set.of(), Set.of());
    }

    /** Takes a new configuration. What is under way ends by the old one. */
    void configure(Outlet next, Channel nextChannel, Lanes lanes) {
        replace(next, new SharedChannel(nextChannel), lanes);
    }

    /** The setup has this outlet no longer; what is owed to it waits. */
    void unconfigure() {
        replace(null, null, Lanes.NONE);
    }

    private void replace(Outlet next, SharedChannel nextChannel, Lanes lanes) {
        SharedChannel old;
        List<Job> removed;
        lock.lock();
        try {
            old = channel;
            outlet = next;
            channel = nextChannel;
            removed = assign(lanes);
        } finally {
            lock.unlock();
        }
        backToTable(removed);
        if (old != null) {
            old.retire();
        }
        tick();
    }

    /** The setup changed, but not this outlet. */
    void serve(Lanes lanes) {
        List<Job> removed;
        lock.lock();
        try {
            removed = assign(lanes);
        } finally {
            lock.unlock();
        }
        backToTable(removed);
        tick();
    }

    private List<Job> assign(Lanes lanes) {
        closedLanes = lanes.closed;
        Instant now = workshop.clock().instant();
        if (outlet != null) {
            setHealth(outlet.closed() ? health.closed(now) : health.opened(now));
        }
        mend();
        return queues.removeAllBut(lanes.open);
    }

    /** What waited in memory for lanes that closed, or are gone, waits in the table from now on. */
    private void backToTable(List<Job> removed) {
        if (!removed.isEmpty()) {
            Thread.ofVirtual().name("release-" + name).start(() -> removed.forEach(this::release));
        }
    }

    private void release(Job job) {
        Instant now = workshop.clock().instant();
        try {
            workshop.journal()
                    .settle(Settlement.released(job.delivery().owed(), now, "its lane was closed", now))
                    .join();
            lookAt(now);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Lets it flow and looks at the table at once: something was mended, or a person wants to see. */
    void tryNow() {
        lock.lock();
        try {
            mend();
        } finally {
            lock.unlock();
        }
        tick();
    }

    private void mend() {
        Instant now = workshop.clock().instant();
        setHealth(health.mended(now));
        held.freeAll();
        nextLook = now;
    }

    OutletHealth health() {
        lock.lock();
        try {
            return health;
        } finally {
            lock.unlock();
        }
    }

    /** Its channel, in use until it is released; empty if it has none. */
    Optional<SharedChannel> channel() {
        lock.lock();
        try {
            return Optional.ofNullable(channel).map(SharedChannel::use);
        } finally {
            lock.unlock();
        }
    }

    /** What it has in its hands: under way, waiting in memory, and devices held. */
    record Hands(int inFlight, int queued, int held) {}

    Hands hands() {
        lock.lock();
        try {
            return new Hands(inFlight, queues.size(), held.count());
        } finally {
            lock.unlock();
        }
    }

    boolean reserve(String lane, long bytes) {
        lock.lock();
        try {
            return !closed && channel != null && !closedLanes.contains(lane) && queues.reserve(lane, bytes);
        } finally {
            lock.unlock();
        }
    }

    void unreserve(String lane, long bytes) {
        lock.lock();
        try {
            queues.unreserve(lane, bytes);
        } finally {
            lock.unlock();
        }
    }

    /** Takes what was reserved and is now durable. */
    void offer(List<Job> jobs) {
        lock.lock();
        try {
            jobs.forEach(queues::fill);
        } finally {
            lock.unlock();
        }
        pump();
    }

    /** There is something in the table that is due at this time. */
    void lookAt(Instant time) {
        lock.lock();
        try {
            if (time.isBefore(nextLook)) {
                nextLook = time;
            }
        } finally {
            lock.unlock();
        }
    }

    /** Called every so often: sends what may be sent, and looks at the table when something there is due. */
    void tick() {
        pump();
        Instant now = workshop.clock().instant();
        int wanted;
        Set<String> without;
        lock.lock();
        try {
            boolean probing = !health.flows();
            boolean room = queues.size() < CLAIM / 2;
            boolean idle = inFlight == 0 && queues.isEmpty();
            boolean time = probing ? health.admits(now, inFlight) && idle : !nextLook.isAfter(now) && room;
            if (looking || closed || channel == null || !time) {
                return;
            }
            looking = true;
            // Whoever wants an earlier look while this one is under way says so here, and is not overwritten.
            nextLook = Instant.MAX;
            wanted = probing ? 1 : CLAIM;
            without = closedLanes;
        } finally {
            lock.unlock();
        }
        Thread.ofVirtual().name("look-" + name).start(() -> look(now, wanted, without));
    }

    private void look(Instant now, int wanted, Set<String> without) {
        Instant next = now.plus(LOOK_AGAIN_AFTER_TROUBLE);
        List<Delivery> claimed = List.of();
        try {
            boolean probing = wanted == 1;
            // A probe takes whatever is next, due or not: it is the outlet that is on trial, not the delivery.
            claimed = workshop.journal()
                    .claim(name, probing ? Instant.parse("9999-01-01T00:00:00Z") : now, wanted, without);
            if (claimed.size() == wanted) {
                next = now;
            } else {
                next = workshop.journal().nextDue(name, without).orElse(Instant.MAX);
            }
        } catch (DataAccessException e) {
            log.warn("Outlet {} could not look for what it owes: {}", name, e.getMessage());
        }
        List<Job> closedMeanwhile = new ArrayList<>();
        lock.lock();
        try {
            looking = false;
            nextLook = next.isBefore(nextLook) ? next : nextLook;
            for (Delivery delivery : claimed) {
                Job job = new Job(delivery, null);
                if (closedLanes.contains(delivery.owed().lane())) {
                    closedMeanwhile.add(job);
                } else {
                    workshop.budget().force(job.bytes());
                    queues.fill(job);
                }
            }
        } finally {
            lock.unlock();
        }
        backToTable(closedMeanwhile);
        pump();
    }

    private void pump() {
        while (true) {
            Job job;
            SharedChannel through;
            OutletHealth atStart;
            lock.lock();
            try {
                Instant now = workshop.clock().instant();
                if (closed || channel == null || inFlight >= outlet.concurrency() || !health.admits(now, inFlight)) {
                    return;
                }
                Optional<Job> next = queues.next();
                if (next.isEmpty()) {
                    return;
                }
                job = next.get();
                inFlight++;
                through = channel.use();
                atStart = health;
            } finally {
                lock.unlock();
            }
            Thread.ofVirtual().name("deliver-" + name).start(() -> deliver(job, through, atStart));
        }
    }

    private void deliver(Job job, SharedChannel through, OutletHealth atStart) {
        try {
            Instant now = workshop.clock().instant();
            Optional<Instant> heldUntil = heldUntil(job, now);
            if (heldUntil.isPresent()) {
                workshop.journal()
                        .settle(Settlement.released(
                                job.delivery().owed(), heldUntil.get(), "its device is held here", now))
                        .join();
                lookAt(heldUntil.get());
                return;
            }
            Attempter.Result result = workshop.attempter().attempt(job, through.channel(), atStart);
            if (result.verdict() != null) {
                weigh(result, job);
            }
            workshop.journal().settle(result.settlement()).join();
            if (result.settlement().fate() == Settlement.Kind.WAITING) {
                lookAt(result.settlement().owed().due());
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (RuntimeException e) {
            log.error(
                    "Delivery {} to outlet {} could not be settled",
                    job.delivery().id(),
                    name,
                    e);
            putBack(job);
        } finally {
            through.release();
            lock.lock();
            try {
                inFlight--;
                queues.done(job);
            } finally {
                lock.unlock();
            }
            pump();
        }
    }

    /** The delivery goes back to the table. If not even that works its row stays this node's, and the next start has it. */
    private void putBack(Job job) {
        Instant now = workshop.clock().instant();
        Instant due = now.plus(PAUSE_AFTER_FAULT);
        try {
            workshop.journal()
                    .settle(Settlement.released(
                            job.delivery().owed(),
                            due,
                            "an attempt ended in a fault of Holtra's own; its log tells more",
                            now));
            lookAt(due);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private Optional<Instant> heldUntil(Job job, Instant now) {
        lock.lock();
        try {
            return held.until(job.delivery().owed().device(), now);
        } finally {
            lock.unlock();
        }
    }

    private void weigh(Attempter.Result result, Job job) {
        Instant now = workshop.clock().instant();
        String device = job.delivery().owed().device();
        lock.lock();
        try {
            setHealth(health.after(result.verdict(), device, now));
            if (result.verdict() instanceof Verdict.DeviceHeld) {
                held.hold(device, now.plus(Fate.HELD));
            } else if (result.verdict() instanceof Verdict.Delivered) {
                held.free(device);
            }
        } finally {
            lock.unlock();
        }
    }

    private void setHealth(OutletHealth next) {
        if (next.state() != health.state()) {
            log.info("Outlet {} is {}{}", name, next.state(), next.reason() == null ? "" : ": " + next.reason());
            if (next.flows()) {
                nextLook = workshop.clock().instant();
            }
        }
        if (!next.equals(health)) {
            health = next;
            workshop.book().changed(name, next);
        }
    }

    /** Starts nothing more. What is under way ends by itself. */
    void close() {
        List<Job> left = new ArrayList<>();
        lock.lock();
        try {
            closed = true;
            left.addAll(queues.removeAllBut(List.of()));
        } finally {
            lock.unlock();
        }
        if (!left.isEmpty()) {
            log.info("Outlet {}: {} deliveries stay owed", name, left.size());
        }
    }

    /** Ends the connections, once nothing is under way. */
    void release() {
        SharedChannel last;
        lock.lock();
        try {
            last = channel;
            channel = null;
        } finally {
            lock.unlock();
        }
        if (last != null) {
            last.retire();
        }
    }
}
