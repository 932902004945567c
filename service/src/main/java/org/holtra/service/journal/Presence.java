package org.holtra.service.journal;

import com.zaxxer.hikari.HikariConfigMXBean;
import com.zaxxer.hikari.HikariDataSource;
import java.sql.SQLException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import javax.sql.DataSource;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Whether the database answers. While it does not, nobody waits long for a connection to it: a person who asks is told at
 * once, and regular work is over at once.
 */
@Component
class Presence {

    private static final long PATIENCE_WHILE_AWAY_MILLIS = 500;
    private static final Logger log = LoggerFactory.getLogger(Presence.class);

    private final HikariConfigMXBean pool;
    private final InstantSource clock;
    private final long patienceMillis;
    private final long checkMillis;
    private volatile Instant awaySince;

    Presence(DataSource source, InstantSource clock) throws SQLException {
        this.pool = source.unwrap(HikariDataSource.class).getHikariConfigMXBean();
        this.clock = clock;
        this.patienceMillis = pool.getConnectionTimeout();
        this.checkMillis = pool.getValidationTimeout();
    }

    boolean isAway() {
        return awaySince != null;
    }

    /** Since when it is away; empty if it is not. */
    Optional<Instant> awaySince() {
        return Optional.ofNullable(awaySince);
    }

    synchronized void away(Exception cause) {
        if (!isAway()) {
            awaySince = clock.instant();
            pool.setValidationTimeout(PATIENCE_WHILE_AWAY_MILLIS);
            pool.setConnectionTimeout(PATIENCE_WHILE_AWAY_MILLIS);
            log.warn("The database is away: {}", cause.getMessage());
        }
    }

    synchronized void back() {
        if (isAway()) {
            pool.setConnectionTimeout(patienceMillis);
            pool.setValidationTimeout(checkMillis);
            awaySince = null;
            log.info("The database is back");
        }
    }
}
