package org.holtra.service.lifecycle;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Work done over and over. One that fails, however badly, is told of and done again the next time. What must not wait has a
 * thread of its own each; the rest shares a few, and may wait for the database as long as it takes.
 */
@Component
class PeriodicTasks implements AutoCloseable {

    private static final int SHARED = 5;
    private static final Duration PATIENCE_AT_CLOSE = Duration.ofSeconds(15);
    private static final Duration TOLD_AGAIN_AFTER = Duration.ofMinutes(1);
    private static final Logger log = LoggerFactory.getLogger(PeriodicTasks.class);

    private final Journal journal;
    private final ScheduledExecutorService shared = Executors.newScheduledThreadPool(
            SHARED, Thread.ofPlatform().daemon().name("rounds-", 0).factory());
    private final List<ScheduledExecutorService> own = new ArrayList<>();

    PeriodicTasks(Journal journal) {
        this.journal = journal;
    }

    void every(long millis, Runnable work) {
        every(shared, millis, new Round(work));
    }

    /** The same on a thread that does nothing else. */
    void promptly(String name, long millis, Runnable work) {
        ScheduledExecutorService thread = Executors.newSingleThreadScheduledExecutor(
                Thread.ofPlatform().daemon().name("round-" + name).factory());
        own.add(thread);
        every(thread, millis, new Round(work));
    }

    private static void every(ScheduledExecutorService threads, long millis, Round round) {
        threads.scheduleWithFixedDelay(round, millis, millis, TimeUnit.MILLISECONDS);
    }

    /** A work, and when its failure was told of last: a database that is away is told of once, and not by each of them. */
    private final class Round implements Runnable {

        private final Runnable work;
        private long toldAt = System.nanoTime() - TOLD_AGAIN_AFTER.toNanos();

        Round(Runnable work) {
            this.work = work;
        }

        @Override
        public void run() {
            try {
                work.run();
            } catch (DataAccessException | TransactionException e) {
                if (!JournalUnavailable.mayPass(e)) {
                    log.error("Regular work failed and will be done again", e);
                } else if (!journal.isAway() && isTimeToTell()) {
                    log.warn(
                            "Regular work waits for the database: {}",
                            e.getMostSpecificCause().getMessage());
                } else {
                    log.debug("Regular work waits for the database", e);
                }
            } catch (JournalUnavailable e) {
                log.debug("Regular work waits for the journal: {}", e.getMessage());
            } catch (RuntimeException | Error e) {
                log.error("Regular work failed and will be done again", e);
            }
        }

        private boolean isTimeToTell() {
            long now = System.nanoTime();
            boolean tell = now - toldAt >= TOLD_AGAIN_AFTER.toNanos();
            toldAt = tell ? now : toldAt;
            return tell;
        }
    }

    @Override
    public void close() {
        List<ScheduledExecutorService> all = new ArrayList<>(own);
        all.add(shared);
        all.forEach(ScheduledExecutorService::shutdown);
        long end = System.nanoTime() + PATIENCE_AT_CLOSE.toNanos();
        for (ScheduledExecutorService threads : all) {
            try {
                if (!threads.awaitTermination(end - System.nanoTime(), TimeUnit.NANOSECONDS)) {
                    log.warn("Regular work is still under way, and is left to itself");
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }
}
