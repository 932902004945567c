package org.holtra.service.journal;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;

/**
 * Commits in groups: whatever queued up while the last commit ran goes into the next, so that one fsync serves many
 * writers and no timer adds to anyone's wait. One thread commits; the others only queue.
 *
 * <p>If a group fails because of what is in it, its items are committed one by one, so that one bad item harms itself
 * only. If it fails because the database is away, all of its items fail.
 *
 * @param <T> what is committed
 */
final class GroupCommit<T> implements AutoCloseable {

    private record Waiting<T>(T item, CompletableFuture<Void> done) {}

    private final BlockingQueue<Waiting<T>> queue;
    private final int largest;
    private final Consumer<List<T>> commit;
    private final Thread thread;
    private volatile boolean closing;

    /**
     * @param capacity how many may wait at once
     * @param largest how many go into one transaction at most
     * @param commit commits all of the items, or throws and commits none
     */
    GroupCommit(String name, int capacity, int largest, Consumer<List<T>> commit) {
        this.queue = new ArrayBlockingQueue<>(capacity);
        this.largest = largest;
        this.commit = commit;
        this.thread = Thread.ofPlatform().name(name).start(this::run);
    }

    /**
     * Completed after the commit, on the committing thread: what depends on it must be short.
     *
     * @throws JournalUnavailable if too many wait already, or the journal is closing
     */
    CompletableFuture<Void> submit(T item) {
        Waiting<T> waiting = new Waiting<>(item, new CompletableFuture<>());
        if (closing || !queue.offer(waiting)) {
            throw new JournalUnavailable(
                    closing ? "the service is stopping" : "too much is waiting to be written", null);
        }
        return waiting.done;
    }

    /** The same, but waits for room. */
    CompletableFuture<Void> submitPatiently(T item) throws InterruptedException {
        Waiting<T> waiting = new Waiting<>(item, new CompletableFuture<>());
        queue.put(waiting);
        return waiting.done;
    }

    private void run() {
        List<Waiting<T>> group = new ArrayList<>(largest);
        while (!closing || !queue.isEmpty()) {
            Waiting<T> first = next();
            if (first != null) {
                group.add(first);
                queue.drainTo(group, largest - 1);
                commit(group);
                group.clear();
            }
        }
    }

    /** Waits in short spells, so that closing needs no interrupt, which might hit a commit under way. */
    private Waiting<T> next() {
        try {
            return queue.poll(200, TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            closing = true;
            return null;
        }
    }

    private void commit(List<Waiting<T>> group) {
        try {
            commit.accept(group.stream().map(Waiting::item).toList());
            group.forEach(waiting -> waiting.done.complete(null));
        } catch (RuntimeException e) {
            if (group.size() > 1 && JournalUnavailable.isOfTheData(e)) {
                group.forEach(waiting -> commit(List.of(waiting)));
            } else {
                group.forEach(waiting -> waiting.done.completeExceptionally(e));
            }
        }
    }

    /** Commits what is queued, then ends. */
    @Override
    public void close() {
        closing = true;
        boolean interrupted = false;
        while (thread.isAlive()) {
            try {
                thread.join();
            } catch (InterruptedException e) {
                interrupted = true;
            }
        }
        if (interrupted) {
            Thread.currentThread().interrupt();
        }
    }
}
