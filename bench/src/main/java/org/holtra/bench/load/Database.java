package org.holtra.bench.load;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;

/** A database of the bench's own cluster. */
record Database(String url, String password) {

    private static final int ATTEMPTS = 30;

    private static int count;

    /** A new, empty one beside this. */
    Database fresh() {
        String name = "bench_" + ProcessHandle.current().pid() + "_" + ++count;
        String server = url.substring(0, url.lastIndexOf('/') + 1);
        new Database(server + "postgres", password).run("create database " + name);
        return new Database(server + name, password);
    }

    void drop() {
        String server = url.substring(0, url.lastIndexOf('/') + 1);
        Database other = new Database(server + "postgres", password);
        String drop = "drop database " + url.substring(url.lastIndexOf('/') + 1) + " with (force)";
        for (int attempt = 1; ; attempt++) {
            try {
                other.run(drop);
                return;
            } catch (IllegalStateException e) {
                // A worker that vacuums it belongs to the server, and must end by itself.
                if (attempt == ATTEMPTS) {
                    throw e;
                }
                Running.pause(1_000);
            }
        }
    }

    void run(String sql) {
        try (Connection connection = connect();
                var statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    long number(String sql) {
        try (Connection connection = connect();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getLong(1);
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    /** The process id of the server. */
    long server() {
        String sql = "select pg_backend_pid()";
        try (Connection connection = connect();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            // Its backends are its children, as long as they live; the service's role may not read the server's files.
            return ProcessHandle.of(rows.getLong(1))
                    .flatMap(ProcessHandle::parent)
                    .map(ProcessHandle::pid)
                    .orElseThrow();
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    Connection connect() throws SQLException {
        return DriverManager.getConnection(url, "holtra", password);
    }
}
