package org.holtra.service.cluster;

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
public class ClusterEvents implements AutoCloseable {

    private static final String CHANNEL = "holtra";
    private static final int LISTEN_MILLIS = 500;
    private static final long PAUSE_MILLIS = 1_000;
    private static final Logger log = LoggerFactory.getLogger(ClusterEvents.class);

    private final ClusterEventMapper mapper;
    private final Node node;
    private final DataSource source;
    private final ApplicationEventPublisher events;
    private volatile boolean closing;
    private volatile Connection listening;
    private Thread thread;

    ClusterEvents(ClusterEventMapper mapper, Node node, DataSource source, ApplicationEventPublisher events) {
        this.mapper = mapper;
        this.node = node;
        this.source = source;
        this.events = events;
    }

    /** @param name of what was changed */
    public void publish(ClusterEvent.Topic topic, String name) {
        publish(topic, List.of(name));
    }

    /** @param names of what was changed */
    public void publish(ClusterEvent.Topic topic, Collection<String> names) {
        mapper.publish(
                CHANNEL,
                names.stream()
                        .map(name -> ClusterEvent.words(node.id().toString(), new ClusterEvent(topic, name)))
                        .toArray(String[]::new));
    }

    /** Starts to receive the events of other nodes. */
    public void listen() {
        thread = Thread.ofPlatform().name("cluster-events").daemon().start(this::run);
    }

    private void run() {
        boolean missed = true;
        while (!closing) {
            try (Connection connection = source.getConnection();
                    Statement statement = connection.createStatement()) {
                listening = connection;
                statement.execute("listen " + CHANNEL);
                if (missed) {
                    for (ClusterEvent.Topic topic : ClusterEvent.Topic.values()) {
                        on(new ClusterEvent(topic, ""));
                    }
                    missed = false;
                }
                receive(connection.unwrap(PGConnection.class));
            } catch (SQLException e) {
                if (closing) {
                    return;
                }
                log.info("Cannot receive the events of other nodes; trying again: {}", e.getMessage());
                missed = true;
                pause();
            }
        }
    }

    private void receive(PGConnection connection) throws SQLException {
        while (!closing) {
            PGNotification[] received = connection.getNotifications(LISTEN_MILLIS);
            for (PGNotification one : received == null ? new PGNotification[0] : received) {
                ClusterEvent.By by = ClusterEvent.of(one.getParameter()).orElse(null);
                if (by == null) {
                    log.debug("Ignored an event of a topic this version does not know: {}", one.getParameter());
                } else if (!by.sender().equals(node.id().toString())) {
                    on(by.event());
                }
            }
        }
    }

    /** @throws SQLException if the database was away while it was handled: then it counts as not received */
    private void on(ClusterEvent event) throws SQLException {
        try {
            events.publishEvent(event);
        } catch (DataAccessException | TransactionException e) {
            throw new SQLException("the event could not be handled: " + e.getMessage(), e);
        } catch (RuntimeException | Error e) {
            // No event, and no failure of a listener, may end this thread.
            log.error("An event of another node could not be handled: {}", event, e);
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
            stopListening();
            try {
                thread.join(2L * LISTEN_MILLIS + PAUSE_MILLIS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    /** Ends the wait for the next event. */
    private void stopListening() {
        Connection open = listening;
        if (open != null) {
            try {
                open.abort(Runnable::run);
            } catch (SQLException e) {
                log.debug("The wait for events ends by itself", e);
            }
        }
    }

    @Mapper
    interface ClusterEventMapper {

        @Select("select count(pg_notify(#{channel}, what)) from unnest(#{whats}::text[]) what")
        @Options(flushCache = FlushCachePolicy.TRUE)
        long publish(@Param("channel") String channel, @Param("whats") String[] whats);
    }
}
