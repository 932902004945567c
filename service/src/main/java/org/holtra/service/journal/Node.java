package org.holtra.service.journal;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * This process as the database knows it. What it owns of the hot table is its own while its lease lasts; a new process
 * has a new id, so that what a killed one left behind is set free when that one's lease runs out.
 */
@Component
public class Node {

    static final Duration LEASE = Duration.ofSeconds(6);

    private static final Duration KEPT_AFTER_LEASE = Duration.ofDays(1);
    private static final Logger log = LoggerFactory.getLogger(Node.class);

    private final OwedMapper owed;
    private final InstantSource clock;
    private final UUID id = UUID.randomUUID();

    Node(OwedMapper owed, InstantSource clock) {
        this.owed = owed;
        this.clock = clock;
    }

    public UUID id() {
        return id;
    }

    public void join() {
        Instant now = clock.instant();
        owed.addNode(id, now, now.plus(LEASE));
    }

    /** Renews the lease and sets free what others abandoned; says for which outlets there was something. */
    public List<String> renew() {
        try {
            Instant now = clock.instant();
            if (owed.renewLease(id, now.plus(LEASE)) == 0) {
                owed.addNode(id, now, now.plus(LEASE));
            }
            return owed.freeAbandoned(now);
        } catch (DataAccessException e) {
            log.warn("The lease of this node could not be renewed: {}", e.getMessage());
            return List.of();
        }
    }

    /** Sets free what this process still owns, so that another need not wait for the lease to run out. */
    public void leave() {
        try {
            owed.removeNode(id, clock.instant().minus(KEPT_AFTER_LEASE));
            owed.freeAbandoned(clock.instant());
        } catch (DataAccessException e) {
            log.warn(
                    "This node could not say goodbye; its deliveries are taken over when its lease runs out: {}",
                    e.getMessage());
        }
    }
}
