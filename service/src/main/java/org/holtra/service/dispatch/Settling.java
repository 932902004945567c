package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.service.journal.Settlement;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Writes down what became of an outlet's deliveries, and brings back to the table what is to wait there. */
final class Settling {

    private static final String BEHIND = "the one before it of its device is not settled yet";
    private static final Duration PAUSE_AFTER_FAULT = Duration.ofSeconds(30);
    private static final Logger log = LoggerFactory.getLogger(Settling.class);

    /** Told when something in the table is due. */
    interface Lookout {
        void lookAt(Instant time);
    }

    private final DispatchContext context;
    private final ReentrantLock lock;
    private final LaneQueues queues;
    private final Lookout lookout;

    /** @param lock guards the queues */
    Settling(DispatchContext context, ReentrantLock lock, LaneQueues queues, Lookout lookout) {
        this.context = context;
        this.lock = lock;
        this.queues = queues;
        this.lookout = lookout;
    }

    /** A task and what became of it. */
    record Settled(Task task, Settlement settlement) {}

    /**
     * What has an order key waits until it is durable that the one before is settled, or a crash between would turn their
     * order round; the others make room for the next at once, so that many are settled in one commit. What goes back to
     * the table takes with it what comes after it under its order key.
     */
    void settle(List<Settled> settled) throws InterruptedException {
        List<CompletableFuture<Void>> awaited = new ArrayList<>();
        List<Task> postponed = new ArrayList<>();
        List<Task> behind = new ArrayList<>();
        for (Settled one : settled) {
            boolean waits = one.settlement.fate() == Settlement.Kind.WAITING;
            if (waits) {
                postponed.add(one.task);
                behind.addAll(stall(one.task));
            }
            CompletableFuture<Void> written = context.journal().settle(one.settlement, one.task.owner());
            if (waits || one.task.orderKey() != null) {
                awaited.add(written);
            } else {
                written.whenComplete((nothing, failure) -> {
                    if (failure != null) {
                        log.error(
                                "Delivery {} could not be settled",
                                one.task.delivery().id(),
                                failure);
                        Thread.ofVirtual().start(() -> putBack(one.task));
                    }
                });
            }
        }
        awaited.forEach(CompletableFuture::join);
        if (!postponed.isEmpty()) {
            arrived(postponed);
            Instant now = context.clock().instant();
            release(behind, now, BEHIND);
            settled.stream()
                    .filter(one -> one.settlement.fate() == Settlement.Kind.WAITING)
                    .forEach(one -> lookout.lookAt(one.settlement.owed().due()));
        }
    }

    /** An attempt that settles nothing is written down; nobody waits for that. */
    void note(Task task, Settlement tried) {
        try {
            context.journal().settle(tried, task.owner()).whenComplete((nothing, failure) -> {
                if (failure != null) {
                    log.error(
                            "An attempt of {} could not be written down",
                            tried.owed().id(),
                            failure);
                }
            });
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private List<Task> stall(Task task) {
        lock.lock();
        try {
            return queues.stall(task);
        } finally {
            lock.unlock();
        }
    }

    /** Gives deliveries back that were not tried. */
    void release(List<Task> tasks, Instant due, String reason) {
        if (tasks.isEmpty()) {
            return;
        }
        Instant now = context.clock().instant();
        List<CompletableFuture<Void>> written = new ArrayList<>();
        try {
            for (Task task : tasks) {
                written.add(context.journal()
                        .settle(Settlement.released(task.delivery().owed(), due, reason, now), task.owner()));
            }
            written.forEach(CompletableFuture::join);
            arrived(tasks);
            lookout.lookAt(due);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** What stood before it went back to the table, where it must follow. */
    void follow(Task task) {
        Instant now = context.clock().instant();
        Thread.ofVirtual().name("release").start(() -> release(List.of(task), now, BEHIND));
    }

    /** These are in the table now. */
    private void arrived(List<Task> tasks) {
        lock.lock();
        try {
            tasks.stream()
                    .filter(task -> task.orderKey() != null)
                    .forEach(task -> queues.table(task.lane()).arrived(task.orderKey()));
        } finally {
            lock.unlock();
        }
    }

    /** The delivery goes back to the table. If not even that works its row stays this node's, and the next start has it. */
    void putBack(Task task) {
        Instant now = context.clock().instant();
        try {
            settle(List.of(new Settled(
                    task,
                    Settlement.released(
                            task.delivery().owed(),
                            now.plus(PAUSE_AFTER_FAULT),
                            "an attempt ended in a fault of Holtra's own; its log tells more",
                            now))));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (CompletionException e) {
            log.error("Delivery {} could not be put back", task.delivery().id(), e);
        }
    }
}
