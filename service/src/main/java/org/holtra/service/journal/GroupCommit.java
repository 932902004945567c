package org.holtra.service.journal;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Function;
import java.util.function.ToLongFunction;

/**
 * Commits in groups: whatever queued up while the last commit ran goes into the next, so that one fsync serves many
 * writers. One thread commits; the others only queue. Where nobody waits for what is in a group, it may be held open for a
 * while, so that more come into it.
 *
 * <p>If a group fails because of what is in it, its items are committed one by one, so that one bad item harms itself
 * only. If it fails because the database is away, all of its items fail, and with them all that queued up behind: the
 * database may answer again a moment later, and nothing must go past what came before it. A writer that is told of a
 * failure, which happens on the committing thread, before it submits more is in order again. No failure ends the thread,
 * on which all writers depend.
 *
 * @param <T> what is committed
 * @param <R> what comes of it
 */
public final class GroupCommit<T, R> implements AutoCloseable {

    /** Items that are committed together or not at all; mostly one. */
    private record Waiting<T, R>(List<T> items, List<CompletableFuture<R>> done) {

        static <T, R> Waiting<T, R> of(List<T> items) {
            List<CompletableFuture<R>> done = new ArrayList<>(items.size());
            items.forEach(item -> done.add(new CompletableFuture<>()));
            return new Waiting<>(items, done);
        }

        CompletableFuture<R> only() {
            return done.getFirst();
        }
    }

    private static final long GROUP_BYTES = 8 << 20;

    private final BlockingQueue<Waiting<T, R>> queue;
    private final Limits<T> limits;
    private final Function<List<T>, List<R>> commit;
    private final Duration open;
    private final Thread thread;
    private volatile boolean closing;
    private volatile boolean hurry;

    /**
     * What fits.
     *
     * @param waiting how many may wait at once
     * @param group how many go into one transaction at most
     * @param size of an item, in bytes; items are added to a group until it has {@value #GROUP_BYTES}
     */
    public record Limits<T>(int waiting, int group, ToLongFunction<T> size) {

        /** Of items that are small. */
        public static <T> Limits<T> of(int waiting, int group) {
            return new Limits<>(waiting, group, item -> 0);
        }

        private long size(Waiting<T, ?> waiting) {
            long sum = 0;
            for (T item : waiting.items) {
                sum += size.applyAsLong(item);
            }
            return sum;
        }
    }

    /** @param commit commits all of the items and says what came of each, or throws and commits none */
    public GroupCommit(String name, Limits<T> limits, Function<List<T>, List<R>> commit) {
        this(name, limits, Duration.ZERO, commit);
    }

    /** @param open how long a group is held open for others, as long as nobody is in a hurry */
    public GroupCommit(String name, Limits<T> limits, Duration open, Function<List<T>, List<R>> commit) {
        this.open = open;
        this.queue = new ArrayBlockingQueue<>(limits.waiting);
        this.limits = limits;
        this.commit = commit;
        this.thread = Thread.ofPlatform().name(name).start(this::run);
    }

    /**
     * Completed after the commit, on the committing thread: what depends on it must be short.
     *
     * @throws JournalUnavailable if too many wait already, or the journal is closing
     */
    public CompletableFuture<R> submit(T item) {
        return enqueue(Waiting.<T, R>of(List.of(item))).only();
    }

    /**
     * The same for several, which are committed in one transaction: all of them or none. One that cannot be committed because
     * of what is in it fails them all.
     *
     * @return what comes of each, in their order
     * @throws JournalUnavailable if too many wait already, or the journal is closing
     */
    public List<CompletableFuture<R>> submitTogether(List<T> items) {
        return enqueue(Waiting.<T, R>of(items)).done;
    }

    private Waiting<T, R> enqueue(Waiting<T, R> waiting) {
        if (closing || !queue.offer(waiting)) {
            throw new JournalUnavailable(
                    closing ? "the service is stopping" : "too much is waiting to be written", null);
        }
        return waiting;
    }

    /**
     * The same, but waits for room.
     *
     * @param hurries whether somebody waits for it
     */
    public CompletableFuture<R> submitPatiently(T item, boolean hurries) throws InterruptedException {
        Waiting<T, R> waiting = Waiting.of(List.of(item));
        queue.put(waiting);
        if (hurries && !open.isZero()) {
            hurry = true;
            LockSupport.unpark(thread);
        }
        return waiting.only();
    }

    private void run() {
        List<Waiting<T, R>> group = new ArrayList<>(limits.group);
        while (!closing || !queue.isEmpty()) {
            Waiting<T, R> first = next();
            if (first != null) {
                group.add(first);
                holdOpen();
                fill(group);
                commit(group);
                group.clear();
            }
        }
    }

    private void fill(List<Waiting<T, R>> group) {
        long bytes = limits.size(group.getFirst());
        Waiting<T, R> next = null;
        while (group.size() < limits.group && bytes < GROUP_BYTES && (next = queue.poll()) != null) {
            group.add(next);
            bytes += limits.size(next);
        }
    }

    private void holdOpen() {
        long end = System.nanoTime() + open.toNanos();
        long left = open.toNanos();
        while (left > 0 && !hurry && !closing && queue.size() < limits.group / 2) {
            LockSupport.parkNanos(left);
            left = end - System.nanoTime();
        }
        hurry = false;
    }

    /** Waits in short spells, so that closing needs no interrupt, which might hit a commit under way. */
    private Waiting<T, R> next() {
        try {
            return queue.poll(200, TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            closing = true;
            return null;
        }
    }

    private void commit(List<Waiting<T, R>> group) {
        List<T> items =
                group.stream().flatMap(waiting -> waiting.items.stream()).toList();
        if (items.isEmpty()) {
            return;
        }
        try {
            List<R> results = commit.apply(items);
            int next = 0;
            for (Waiting<T, R> waiting : group) {
                for (CompletableFuture<R> done : waiting.done) {
                    done.complete(results.get(next++));
                }
            }
        } catch (RuntimeException | Error e) {
            if (group.size() > 1 && JournalUnavailable.isOfTheData(e)) {
                group.forEach(waiting -> commit(List.of(waiting)));
            } else {
                fail(group, e);
                failQueue();
            }
        }
    }

    private static <T, R> void fail(List<Waiting<T, R>> group, Throwable failure) {
        group.forEach(waiting -> waiting.done.forEach(done -> done.completeExceptionally(failure)));
    }

    /** Only once those before have been told: until then, more may have come behind them. */
    private void failQueue() {
        List<Waiting<T, R>> behind = new ArrayList<>();
        queue.drainTo(behind);
        fail(behind, new JournalUnavailable("what came before could not be written", null));
    }

    /** Commits what is queued, then ends. */
    @Override
    public void close() {
        closing = true;
        LockSupport.unpark(thread);
        queue.offer(new Waiting<>(List.of(), List.of())); // wakes it if it waits for a first item
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
