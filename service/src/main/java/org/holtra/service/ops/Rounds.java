package org.holtra.service.ops;

import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Work done over and over. One that fails, however badly, is told of and done again the next time. */
@Component
class Rounds implements AutoCloseable {

    private static final Logger log = LoggerFactory.getLogger(Rounds.class);

    private final ScheduledExecutorService threads = Executors.newScheduledThreadPool(
            5, Thread.ofPlatform().name("rounds-", 0).factory());

    void every(long millis, Runnable work) {
        threads.scheduleWithFixedDelay(() -> run(work), millis, millis, TimeUnit.MILLISECONDS);
    }

    private static void run(Runnable work) {
        try {
            work.run();
        } catch (DataAccessException | TransactionException e) {
            if (JournalUnavailable.mayPass(e)) {
                log.warn(
                        "Regular work waits for the database: {}",
                        e.getMostSpecificCause().getMessage());
            } else {
                log.error("Regular work failed and will be done again", e);
            }
        } catch (RuntimeException | Error e) {
            log.error("Regular work failed and will be done again", e);
        }
    }

    @Override
    public void close() {
        threads.close();
    }
}
