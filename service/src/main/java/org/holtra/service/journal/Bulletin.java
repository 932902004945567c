package org.holtra.service.journal;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Collection;
import java.util.List;
import javax.sql.DataSource;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * How nodes tell each other what they changed, by the database's notifications: what is told in a transaction is heard
 * when that commits, and not if it does not. A node that could not hear for a while takes it that anything may have
 * changed.
 */
@Component
public class Bulletin implements AutoCloseable {

    private static final String CHANNEL = "holtra";
    private static final int LISTEN_MILLIS = 500;
    private static final long PAUSE_MILLIS = 1_000;
    private static final Logger log = LoggerFactory.getLogger(Bulletin.class);

    private final BulletinMapper mapper;
    private final Node node;
    private final DataSource source;
    private final ApplicationEventPublisher events;
    private volatile boolean closing;
    private Thread thread;

    Bulletin(BulletinMapper mapper, Node node, DataSource source, ApplicationEventPublisher events) {
        this.mapper = mapper;
        this.node = node;
        this.source = source;
        this.events = events;
    }

    /** @param name of what was changed */
    public void tell(Told.Topic topic, String name) {
        tell(topic, List.of(name));
    }

    /** @param names of what was changed */
    public void tell(Told.Topic topic, Collection<String> names) {
        mapper.tell(
                CHANNEL,
                names.stream()
                        .map(name -> Told.words(node.id().toString(), new Told(topic, name)))
                        .toArray(String[]::new));
    }

    /** Begins to hear what others tell. */
    public void listen() {
        thread = Thread.ofPlatform().name("bulletin").daemon().start(this::run);
    }

    private void run() {
        boolean missed = true;
        while (!closing) {
            try (Connection connection = source.getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("listen " + CHANNEL);
                if (missed) {
                    for (Told.Topic topic : Told.Topic.values()) {
                        hear(new Told(topic, ""));
                    }
                    missed = false;
                }
                hear(connection.unwrap(PGConnection.class));
            } catch (SQLException e) {
                log.info("Cannot hear what other nodes tell, and will try again: {}", e.getMessage());
                missed = true;
                pause();
            }
        }
    }

    private void hear(PGConnection connection) throws SQLException {
        while (!closing) {
            PGNotification[] heard = connection.getNotifications(LISTEN_MILLIS);
            for (PGNotification one : heard == null ? new PGNotification[0] : heard) {
                Told.By by = Told.of(one.getParameter()).orElse(null);
                if (by == null) {
                    log.debug("Heard, and not understood: {}", one.getParameter());
                } else if (!by.teller().equals(node.id().toString())) {
                    hear(by.told());
                }
            }
        }
    }

    /** @throws SQLException if the database was away when it was to be acted on: then it counts as not heard */
    private void hear(Told told) throws SQLException {
        try {
            events.publishEvent(told);
        } catch (DataAccessException | TransactionException e) {
            throw new SQLException("what was told could not be acted on: " + e.getMessage(), e);
        } catch (RuntimeException | Error e) {
            // Nothing that is told, and nothing that is done about it, may make this node deaf.
            log.error("What another node told could not be acted on: {}", told, e);
        }
    }

    private void pause() {
        try {
            Thread.sleep(PAUSE_MILLIS);
        } catch (InterruptedException e) {
            closing = true;
        }
    }

    @Override
    public void close() {
        closing = true;
        if (thread != null) {
            try {
                thread.join(2L * LISTEN_MILLIS + PAUSE_MILLIS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    @Mapper
    interface BulletinMapper {

        @Select("select count(pg_notify(#{channel}, what)) from unnest(#{whats}::text[]) what")
        @Options(flushCache = FlushCachePolicy.TRUE)
        long tell(@Param("channel") String channel, @Param("whats") String[] whats);
    }
}
