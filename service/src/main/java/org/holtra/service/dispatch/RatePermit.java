package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.core.delivery.Pace;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;

/**
 * The leave to send that an outlet's runner has in hand by the outlet's pace and quotas, which all nodes share. Guarded by
 * the runner's lock.
 */
final class RatePermit {

    private static final Logger log = LoggerFactory.getLogger(RatePermit.class);

    private final String outlet;
    private final DispatchContext context;
    private final ReentrantLock lock;
    private final OutletStanding standing;
    private final Runnable answered;
    private Pace.Grant grant;
    private long left;
    private Instant next = Instant.MIN;
    private boolean asking;

    /** @param answered called, without the lock, once it was asked for more and there is an answer */
    RatePermit(String outlet, DispatchContext context, ReentrantLock lock, OutletStanding standing, Runnable answered) {
        this.outlet = outlet;
        this.context = context;
        this.lock = lock;
        this.standing = standing;
        this.answered = answered;
    }

    /** Whether one more may go now; asks for leave where there is none in hand and something waits. */
    boolean mayGo(Pace pace, boolean waits, Instant now) {
        if (pace.isAny() || left > 0 && !next.isAfter(now)) {
            return true;
        }
        if (waits && left <= 0 && !asking) {
            asking = true;
            Thread.ofVirtual().name("pace-" + outlet).start(() -> ask(pace));
        }
        return false;
    }

    /** One goes. */
    void spend(Pace pace) {
        if (!pace.isAny()) {
            left--;
            next = next.plus(grant.each());
        }
    }

    /** What was granted by another configuration is no longer good. */
    void forget() {
        left = 0;
    }

    private void ask(Pace pace) {
        Pace.Grant granted = null;
        try {
            granted = context.paces().take(outlet, pace, context.clock().instant());
        } catch (DataAccessException | TransactionException e) {
            log.warn(
                    "Outlet {} could not be granted leave to send: {}",
                    outlet,
                    e.getMostSpecificCause().getMessage());
        } finally {
            take(granted);
        }
        answered.run();
    }

    private void take(Pace.Grant granted) {
        lock.lock();
        try {
            asking = false;
            if (granted != null && granted.messages() > 0) {
                grant = granted;
                left = granted.messages();
                next = granted.first();
            } else if (granted != null) {
                standing.pause(granted, context.clock().instant());
            }
        } finally {
            lock.unlock();
        }
    }
}
