package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Pace;
import org.holtra.core.setup.Outlet;
import org.holtra.service.journal.entry.Delivery;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;

/**
 * Sends what is owed to one outlet, as many at once as it allows. It shares nothing with other outlets but the journal, so
 * that a slow, broken or blocked one costs them nothing. First attempts come from memory; the table is read for what
 * found no room there, for retries and for what another process left.
 */
final class OutletRunner {

    /** How much is claimed at a time, or two batches if that is more: enough to keep the destination busy until the next look. */
    private static final int CLAIM = 400;

    /** Where other nodes write to the table, what they leave there is looked for so often. */
    private static final Duration LOOK_IN_COMPANY = Duration.ofMillis(250);

    private static final String LANE_CLOSED = "its lane was closed";
    private static final Instant WHENEVER = Instant.parse("9999-01-01T00:00:00Z");
    private static final Duration LOOK_AGAIN_AFTER_TROUBLE = Duration.ofSeconds(2);
    private static final Logger log = LoggerFactory.getLogger(OutletRunner.class);

    private final String name;
    private final DispatchContext context;
    private final ReentrantLock lock = new ReentrantLock();
    private final LaneQueues queues;
    private final OutletStanding standing;
    private final Settling settling;
    private final Sending sending;
    private final Gathering gathering = new Gathering();
    private final RatePermit permit;
    private Outlet outlet;
    private final TableLook table;
    private Lanes lanes = Lanes.NONE;
    private SharedSink sink;
    private final Set<UUID> underWay = new HashSet<>();
    private int inFlight;
    private boolean looking;
    private boolean closed;
    private Instant nextLook;

    OutletRunner(String name, DispatchContext context, OutletHealthStore.Remembered remembered) {
        this.name = name;
        this.context = context;
        this.queues = new LaneQueues(context.budget());
        this.settling = new Settling(context, lock, queues, this::lookAt);
        this.standing = new OutletStanding(name, context, lock, this::lookAt, remembered);
        this.sending = new Sending(context, settling, standing);
        this.permit = new RatePermit(name, context, lock, standing, this::pump);
        this.table = new TableLook(name, context.backlog());
        this.nextLook = context.clock().instant();
    }

    /**
     * The lanes that deliver here. What closed ones owe stays in the table.
     *
     * @param ordered those of the open ones that keep the order of devices
     */
    record Lanes(Set<String> open, Set<String> closed, Set<String> ordered) {

        static final Lanes NONE = new Lanes(Set.of(), Set.of(), Set.of());
    }

    /** Takes a new configuration. What is under way ends by the old one. */
    void configure(Outlet next, Sink nextSink, Lanes lanes) {
        replace(next, new SharedSink(nextSink), lanes);
    }

    /** The setup has this outlet no longer; what is owed to it waits. */
    void unconfigure() {
        replace(null, null, Lanes.NONE);
    }

    private void replace(Outlet next, SharedSink nextSink, Lanes lanes) {
        SharedSink old;
        List<Task> removed;
        lock.lock();
        try {
            old = sink;
            outlet = next;
            sink = nextSink;
            permit.forget();
            removed = assign(lanes);
            // What was remembered across a restart still holds; a change may have mended it.
            if (old != null) {
                standing.mend(context.clock().instant());
            }
        } finally {
            lock.unlock();
        }
        backToTable(removed, LANE_CLOSED);
        if (old != null) {
            old.retire();
        }
        tick();
    }

    /** The setup changed, but not this outlet. */
    void serve(Lanes lanes) {
        List<Task> removed;
        lock.lock();
        try {
            removed = assign(lanes);
        } finally {
            lock.unlock();
        }
        backToTable(removed, LANE_CLOSED);
        tick();
    }

    private List<Task> assign(Lanes next) {
        next.ordered.stream()
                .filter(lane -> !lanes.ordered.contains(lane))
                .forEach(lane -> queues.table(lane).doubtAll());
        lanes = next;
        Instant now = context.clock().instant();
        if (outlet != null) {
            standing.configured(outlet.closed(), now);
        }
        want(now);
        return queues.removeAllBut(lanes.open);
    }

    /** What waited in memory waits in the table from now on. */
    private void backToTable(List<Task> removed, String reason) {
        if (!removed.isEmpty()) {
            Thread.ofVirtual()
                    .name("release-" + name)
                    .start(() -> settling.release(removed, context.clock().instant(), reason));
        }
    }

    /** Lets it flow and looks at the table at once: something was mended, or a person wants to see. */
    void tryNow() {
        standing.mend(context.clock().instant());
        tick();
    }

    /** Tries devices again that it holds; empty if it holds none of them. */
    List<String> free(String device) {
        return standing.free(device, context.clock().instant());
    }

    OutletHealth health() {
        return standing.health();
    }

    /** Its sink, in use until it is released; empty if it has none. */
    Optional<SharedSink> sink() {
        lock.lock();
        try {
            return Optional.ofNullable(sink).map(SharedSink::use);
        } finally {
            lock.unlock();
        }
    }

    /** How it sends several as one; empty if it sends each by itself. */
    Optional<Batch> batch() {
        lock.lock();
        try {
            return Optional.ofNullable(outlet).map(one -> one.manner().batch());
        } finally {
            lock.unlock();
        }
    }

    /** What it has in its hands: under way, waiting in memory, and devices held. */
    record Hands(int inFlight, int queued, List<HeldDevices.Held> held) {}

    Hands hands() {
        lock.lock();
        try {
            return new Hands(inFlight, queues.size(), standing.held());
        } finally {
            lock.unlock();
        }
    }

    /**
     * Reserves room in memory for a delivery that is about to be committed; false if it must go by the table, and then
     * {@link #leftInTable} is to be told.
     */
    boolean reserve(Delivery.Owed owed, long bytes) {
        lock.lock();
        try {
            if (closed || sink == null || lanes.closed.contains(owed.lane())) {
                if (owed.orderKey() != null) {
                    queues.table(owed.lane()).leaves(owed.orderKey());
                }
                return false;
            }
            return queues.reserve(owed.lane(), owed.orderKey(), bytes);
        } finally {
            lock.unlock();
        }
    }

    void unreserve(Delivery.Owed owed, long bytes) {
        lock.lock();
        try {
            queues.unreserve(owed.lane(), owed.orderKey(), bytes);
        } finally {
            lock.unlock();
        }
    }

    /** Something is about to be written to the table; {@link #leftInTable} is to be told once it is, or came to nothing. */
    void leaves(Delivery.Owed owed) {
        lock.lock();
        try {
            if (owed.orderKey() != null) {
                queues.table(owed.lane()).leaves(owed.orderKey());
            }
        } finally {
            lock.unlock();
        }
    }

    /**
     * Room was reserved, and nobody can tell whether the delivery is in the table: what comes under its order key goes by the table
     * until that is known, and {@link #leftInTable} is to be told then.
     */
    void uncertain(Delivery.Owed owed, long bytes) {
        lock.lock();
        try {
            leaves(owed);
            queues.unreserve(owed.lane(), owed.orderKey(), bytes);
        } finally {
            lock.unlock();
        }
    }

    /** Which deliveries it has in its hands. */
    Set<UUID> inHand() {
        lock.lock();
        try {
            Set<UUID> all = queues.ids();
            all.addAll(underWay);
            return all;
        } finally {
            lock.unlock();
        }
    }

    /** Room was reserved, but the delivery is in the table and nobody's. */
    void notOurs(Delivery.Owed owed, long bytes) {
        uncertain(owed, bytes);
        leftInTable(owed);
    }

    /** What found no room in memory is in the table now, or came to nothing. */
    void leftInTable(Delivery.Owed owed) {
        lock.lock();
        try {
            if (owed.orderKey() != null) {
                queues.table(owed.lane()).arrived(owed.orderKey());
            }
        } finally {
            lock.unlock();
        }
        lookAt(context.clock().instant());
    }

    /** Takes what was reserved and is now durable. */
    void offer(Task task) {
        boolean taken;
        lock.lock();
        try {
            if (isOthers(task)) {
                notOurs(task.delivery().owed(), task.bytes());
                return;
            }
            taken = queues.fill(task);
        } finally {
            lock.unlock();
        }
        if (taken) {
            pump();
        } else {
            settling.follow(task);
        }
    }

    /**
     * This node was given up, and is here again under a new id. What was taken under the old one is others' now; what was
     * taken under the new one already goes back to the table, where it may stand behind what is others'.
     */
    void abandon() {
        List<Task> removed;
        lock.lock();
        try {
            removed = queues.abandon();
            removed.removeIf(this::forgetIfOthers);
        } finally {
            lock.unlock();
        }
        backToTable(removed, "its node was given up for a while");
        lookAt(context.clock().instant());
    }

    private boolean isOthers(Task task) {
        return !task.owner().equals(context.node().id());
    }

    private boolean forgetIfOthers(Task task) {
        boolean others = isOthers(task);
        if (others && task.orderKey() != null) {
            queues.table(task.lane()).arrived(task.orderKey());
        }
        return others;
    }

    /** Another node was here, and may have left something under order keys. */
    void doubtOrdered() {
        lock.lock();
        try {
            queues.doubtAll();
        } finally {
            lock.unlock();
        }
        lookAt(context.clock().instant());
    }

    /** There is something in the table that is due at this time. */
    void lookAt(Instant time) {
        lock.lock();
        try {
            want(time);
        } finally {
            lock.unlock();
        }
    }

    /** Guarded by the lock. */
    private void want(Instant time) {
        table.asked(time);
        if (time.isBefore(nextLook)) {
            nextLook = time;
        }
    }

    /** Called every so often: sends what may be sent, and looks at the table when something there is due. */
    void tick() {
        pump();
        refill();
    }

    private void refill() {
        TableLook.Plan plan;
        lock.lock();
        try {
            Instant now = context.clock().instant();
            if (!mayLook(now)) {
                return;
            }
            looking = true;
            // Whoever wants an earlier look while this one is under way says so here, and is not overwritten.
            nextLook = Instant.MAX;
            // A probe takes whatever is next, due or not: it is the outlet that is on trial, not the delivery.
            plan = standing.health().flows()
                    ? table.plan(context.node().id(), now, claim(), lanes, queues)
                    : table.plan(context.node().id(), WHENEVER, atOnce(), lanes, queues);
        } finally {
            lock.unlock();
        }
        Thread.ofVirtual().name("look-" + name).start(() -> look(plan));
    }

    private boolean mayLook(Instant now) {
        if (looking || closed || sink == null) {
            return false;
        }
        boolean wanted = standing.health().flows()
                ? !nextLook.isAfter(now)
                        && queues.size() < claim() / 2
                        && (queues.isEmpty() || context.budget().hasRoom())
                : inFlight == 0 && queues.isEmpty() && standing.health().admits(now, inFlight);
        return wanted && context.node().holdsLease();
    }

    private void look(TableLook.Plan plan) {
        Instant now = context.clock().instant();
        TableLook.Found found = new TableLook.Found(List.of(), now.plus(LOOK_AGAIN_AFTER_TROUBLE), List.of());
        try {
            found = table.run(plan);
        } catch (RuntimeException e) {
            context.backlog().doubt(plan.claim());
            if (e instanceof DataAccessException away) {
                if (!context.journal().isAway()) {
                    log.warn(
                            "Outlet {} could not look for what it owes: {}",
                            name,
                            away.getMostSpecificCause().getMessage());
                }
            } else {
                log.error("Outlet {} could not look for what it owes", name, e);
            }
        }
        List<Task> closedMeanwhile = new ArrayList<>();
        lock.lock();
        try {
            looking = false;
            Instant next = soonest(table.apply(found, queues), now);
            nextLook = next.isBefore(nextLook) ? next : nextLook;
            if (!plan.claim().owner().equals(context.node().id())) {
                // Given up while it looked: what it claimed is nobody's once that is found out.
                context.backlog().doubt(plan.claim());
                doubtOrdered();
                return;
            }
            for (Delivery delivery : found.claimed()) {
                Task task = new Task(delivery, null, plan.claim().owner());
                if (lanes.closed.contains(task.lane())) {
                    if (task.orderKey() != null) {
                        queues.table(task.lane()).leaves(task.orderKey());
                    }
                    closedMeanwhile.add(task);
                } else {
                    queues.add(task);
                }
            }
        } finally {
            lock.unlock();
        }
        backToTable(closedMeanwhile, LANE_CLOSED);
        pump();
    }

    private Instant soonest(Instant next, Instant now) {
        if (lanes.ordered.isEmpty() || !context.node().hasCompany()) {
            return next;
        }
        Instant soon = now.plus(LOOK_IN_COMPANY);
        return soon.isBefore(next) ? soon : next;
    }

    private void pump() {
        while (true) {
            Sending.Handful handful;
            lock.lock();
            try {
                if (closed || sink == null || queues.isEmpty() || inFlight >= outlet.concurrency()) {
                    return;
                }
                Instant now = context.clock().instant();
                if (!standing.health().admits(now, inFlight) || !context.node().holdsLease()) {
                    return;
                }
                List<Task> tasks = takeWhatMayGo(now);
                if (tasks.isEmpty()) {
                    return;
                }
                inFlight++;
                tasks.forEach(task -> underWay.add(task.delivery().id()));
                handful = new Sending.Handful(tasks, sink.use(), standing.health(), outlet);
            } finally {
                lock.unlock();
            }
            Thread.ofVirtual().name("deliver-" + name).start(() -> deliver(handful));
        }
    }

    /** What goes next in one request: one delivery, or as many as make a batch. A probe does not wait for others. */
    private List<Task> takeWhatMayGo(Instant now) {
        Batch batch = outlet.manner().batch();
        if (batch != null && standing.health().flows() && !gathering.isReady(queues, batch, now)) {
            return List.of();
        }
        int most = atOnce();
        Pace pace = outlet.manner().pace();
        List<Task> tasks = new ArrayList<>();
        while (tasks.size() < most && permit.mayGo(pace, !queues.isEmpty(), now)) {
            Optional<Task> next = next(tasks);
            if (next.isEmpty()) {
                break;
            }
            tasks.add(next.get());
            permit.spend(pace);
        }
        gathering.taken();
        return tasks;
    }

    private Optional<Task> next(List<Task> taken) {
        Optional<Task> behind =
                taken.isEmpty() || !sink.sink().keepsOrderWithin() ? Optional.empty() : queues.behind(taken.getLast());
        return behind.isPresent() ? behind : queues.next();
    }

    /** A look that brought less than a batch would have it wait for others that nobody looks for. */
    private int claim() {
        return Math.max(CLAIM, 2 * atOnce());
    }

    /** How many deliveries a request may hold. */
    private int atOnce() {
        Batch batch = outlet.manner().batch();
        return batch == null ? 1 : batch.messages();
    }

    private void deliver(Sending.Handful handful) {
        List<Task> tasks = handful.tasks();
        Sending.Untried untried = Sending.Untried.NONE;
        try {
            untried = sending.attempt(handful);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (RuntimeException | Error e) {
            log.error(
                    "Delivery {} to outlet {} could not be settled",
                    tasks.getFirst().delivery().id(),
                    name,
                    e);
            tasks.forEach(settling::putBack);
        } finally {
            handful.through().release();
            giveBack(tasks, untried);
        }
    }

    private void giveBack(List<Task> tasks, Sending.Untried untried) {
        List<Task> toTable = new ArrayList<>(untried.following());
        lock.lock();
        try {
            inFlight--;
            tasks.forEach(task -> underWay.remove(task.delivery().id()));
            for (Task task : tasks) {
                if (!untried.has(task) && queues.done(task)) {
                    want(Instant.EPOCH);
                }
            }
            for (Task task : untried.first().reversed()) {
                if (isOthers(task)) {
                    queues.done(task);
                } else if (lanes.closed.contains(task.lane())) {
                    toTable.add(task);
                } else {
                    queues.back(task);
                }
            }
            toTable.forEach(queues::leave);
        } finally {
            lock.unlock();
        }
        toTable.forEach(settling::follow);
        if (untried.size() < tasks.size()) {
            pump();
            refill();
        }
    }

    /** Another node found this outlet's destination so. What this node knows later counts more. */
    void hear(OutletHealth other) {
        standing.hear(other, context.clock().instant());
        tick();
    }

    /** Starts nothing more. What is under way ends by itself. */
    void close() {
        List<Task> left = new ArrayList<>();
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
        SharedSink last;
        lock.lock();
        try {
            last = sink;
            sink = null;
        } finally {
            lock.unlock();
        }
        if (last != null) {
            last.retire();
        }
    }
}
