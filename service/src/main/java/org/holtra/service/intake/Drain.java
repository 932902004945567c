package org.holtra.service.intake;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Inlet;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.setups.Setups;
import org.holtra.service.spool.Spool;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Brings what waits in the spool into the journal, in the order it came, once the database is back: there it is read,
 * claimed by its device, and picked. A batch is kept in one transaction, so that no message is in the journal before one
 * that came earlier, whatever breaks.
 */
@Component
public class Drain {

    private static final int BATCH = 500;
    private static final Logger log = LoggerFactory.getLogger(Drain.class);

    private final Spool spool;
    private final Intake intake;
    private final Setups setups;
    private final Journal journal;
    /** Why it could not be brought the last time, which is told of once; null if it could. */
    private volatile String reason;

    Drain(Spool spool, Intake intake, Setups setups, Journal journal) {
        this.spool = spool;
        this.intake = intake;
        this.setups = setups;
        this.journal = journal;
    }

    /** Called every so often, by one thread: drains as long as there is something and the database takes it. */
    public void run() {
        while (spool.isActive() && !journal.isAway()) {
            List<Arrival> batch = spool.next(BATCH);
            if (batch.isEmpty() || !bring(batch)) {
                return;
            }
            spool.drained(batch.size());
        }
    }

    /** False if the database did not take all of them; then they are brought again, and those it took are known. */
    private boolean bring(List<Arrival> batch) {
        try {
            Set<UUID> there = journal.existing(batch.stream().map(Arrival::id).toList());
            List<CompletableFuture<MessageId>> taken = new ArrayList<>();
            Together together = new Together(journal);
            for (Arrival arrival : batch) {
                if (!there.contains(arrival.id().value())) {
                    taken.add(take(arrival, together));
                }
            }
            together.commit();
            for (CompletableFuture<MessageId> one : taken) {
                one.join();
            }
            reason = null;
            return true;
        } catch (CompletionException | JournalUnavailable | DataAccessException | TransactionException e) {
            String why =
                    String.valueOf(NestedExceptionUtils.getMostSpecificCause(e).getMessage());
            if (!why.equals(reason)) {
                reason = why;
                log.info("What is spooled waits on: {}", reason);
            }
            return false;
        }
    }

    private CompletableFuture<MessageId> take(Arrival arrival, Together together) {
        Inlet inlet = setups.current().inlet(arrival.inlet()).orElse(null);
        return inlet == null ? intake.orphan(arrival, together) : intake.journal(arrival, inlet, together);
    }
}
