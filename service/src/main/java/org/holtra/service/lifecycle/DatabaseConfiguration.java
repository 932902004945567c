package org.holtra.service.lifecycle;

import com.zaxxer.hikari.HikariDataSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.holtra.service.database.Urgent;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.flyway.autoconfigure.FlywayMigrationStrategy;
import org.springframework.boot.jdbc.autoconfigure.DataSourceProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Primary;
import org.springframework.jdbc.datasource.lookup.AbstractRoutingDataSource;

/**
 * Two pools of connections to the one database. The small one is for what must not wait: whatever occupies the other, a node
 * keeps its lease and the journal commits.
 */
@Configuration
class DatabaseConfiguration {

    private static final long PAUSE_MILLIS = 1_000;
    private static final Logger log = LoggerFactory.getLogger(DatabaseConfiguration.class);

    @Bean
    @ConfigurationProperties("spring.datasource.hikari")
    HikariDataSource usualConnections(DataSourceProperties properties) {
        return pool(properties);
    }

    @Bean
    @ConfigurationProperties("holtra.urgent-connections")
    HikariDataSource urgentConnections(DataSourceProperties properties) {
        return pool(properties);
    }

    private static HikariDataSource pool(DataSourceProperties properties) {
        return properties
                .initializeDataSourceBuilder()
                .type(HikariDataSource.class)
                .build();
    }

    @Bean
    @Primary
    DataSource dataSource(HikariDataSource usualConnections, HikariDataSource urgentConnections) {
        AbstractRoutingDataSource routing = new AbstractRoutingDataSource() {
            @Override
            protected Object determineCurrentLookupKey() {
                return Urgent.isMarked();
            }
        };
        routing.setTargetDataSources(Map.of(true, urgentConnections, false, usualConnections));
        return routing;
    }

    /** A service whose database is not there yet waits for it. Before it knows its setup it can take nothing in. */
    @Bean
    FlywayMigrationStrategy migrateOnceTheDatabaseIsThere(DataSource source) {
        return flyway -> {
            await(source);
            migrate(flyway, source);
        };
    }

    private static void migrate(Flyway flyway, DataSource source) {
        while (true) {
            try {
                flyway.migrate();
                return;
            } catch (RuntimeException e) {
                if (answers(source) == null) {
                    throw e;
                }
                log.warn("The database went away while its tables were made: {}", e.getMessage());
                await(source);
            }
        }
    }

    private static void await(DataSource source) {
        String failure = answers(source);
        if (failure == null) {
            return;
        }
        log.warn("Waiting for the database: {}", failure);
        // Spring waits for the start to end before it ends a context; nothing runs yet that would have to end in order.
        Thread end = new Thread(() -> Runtime.getRuntime().halt(143));
        Runtime.getRuntime().addShutdownHook(end);
        while (answers(source) != null) {
            try {
                Thread.sleep(PAUSE_MILLIS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
        }
        Runtime.getRuntime().removeShutdownHook(end);
        log.info("The database is there");
    }

    /** Null if it does; else why not. A database that refuses the account or is not there by that name is waited for too. */
    private static String answers(DataSource source) {
        try (Connection connection = source.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("select 1");
            return null;
        } catch (SQLException e) {
            Throwable cause = e.getCause() == null ? e : e.getCause();
            return String.valueOf(cause.getMessage());
        }
    }
}
