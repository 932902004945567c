package org.holtra.service.database;

import com.zaxxer.hikari.HikariConfigMXBean;
import com.zaxxer.hikari.HikariDataSource;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionSystemException;

/**
 * Whether the database answers. While it does not, nobody waits long for a connection to it: a person who asks is told at
 * once, and regular work is over at once.
 */
@Component
public class DatabaseAvailability {

    private static final long PATIENCE_WHILE_AWAY_MILLIS = 500;
    private static final Logger log = LoggerFactory.getLogger(DatabaseAvailability.class);

    /** How patient a pool is while the database is there. */
    private record Pool(HikariConfigMXBean settings, long patienceMillis, long checkMillis) {

        static Pool of(HikariDataSource source) {
            HikariConfigMXBean settings = source.getHikariConfigMXBean();
            return new Pool(settings, settings.getConnectionTimeout(), settings.getValidationTimeout());
        }

        void hurry() {
            settings.setValidationTimeout(Math.min(checkMillis, PATIENCE_WHILE_AWAY_MILLIS));
            settings.setConnectionTimeout(Math.min(patienceMillis, PATIENCE_WHILE_AWAY_MILLIS));
        }

        void relax() {
            settings.setConnectionTimeout(patienceMillis);
            settings.setValidationTimeout(checkMillis);
        }
    }

    private final List<Pool> pools;
    private final InstantSource clock;
    private volatile Instant awaySince;

    DatabaseAvailability(List<HikariDataSource> sources, InstantSource clock) {
        this.pools = sources.stream().map(Pool::of).toList();
        this.clock = clock;
    }

    public boolean isAway() {
        return awaySince != null;
    }

    /** Since when it is away; empty if it is not. */
    public Optional<Instant> awaySince() {
        return Optional.ofNullable(awaySince);
    }

    public synchronized void away(Exception cause) {
        if (!isAway()) {
            awaySince = clock.instant();
            pools.forEach(Pool::hurry);
            log.warn("The database is away: {}", reason(cause));
        }
    }

    /** Where even the rollback failed, what failed before it tells more. */
    private static String reason(Exception cause) {
        Throwable first = cause instanceof TransactionSystemException system && system.getOriginalException() != null
                ? system.getOriginalException()
                : cause;
        return NestedExceptionUtils.getMostSpecificCause(first).getMessage();
    }

    public synchronized void back() {
        if (isAway()) {
            pools.forEach(Pool::relax);
            awaySince = null;
            log.info("The database is back");
        }
    }
}
