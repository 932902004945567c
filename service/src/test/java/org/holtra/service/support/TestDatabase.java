package org.holtra.service.support;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicInteger;
import org.flywaydb.core.Flyway;

/**
 * Databases for tests, in a PostgreSQL cluster of their own: the one that {@code ./holtra verify} started, or one that is
 * started here and stopped with the process.
 *
 * @param url of the database
 */
public record TestDatabase(String url, String password) {

    private static final AtomicInteger COUNT = new AtomicInteger();

    /** A cluster that a test may stop and start as it likes. */
    public static final class Cluster implements AutoCloseable {
        private final Path folder;

        private Cluster(Path folder) {
            this.folder = folder;
        }

        public static Cluster make() {
            try {
                Path folder = Files.createTempDirectory(Path.of("/tmp"), "holtra-test-postgres");
                folder.toFile().setReadable(true, false);
                folder.toFile().setExecutable(true, false);
                return new Cluster(folder.resolve("cluster"));
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }

        /** Starts it, at the port it had before. */
        public TestDatabase start() {
            String[] answer = script("start", folder).strip().split(" ");
            return new TestDatabase("jdbc:postgresql://127.0.0.1:" + answer[0] + "/", answer[1]);
        }

        public void stop() {
            script("stop", folder);
        }

        /** Stops all its processes where they are, as a machine that hangs does; or lets them go on. */
        public void freeze(boolean frozen) {
            try {
                String first = Files.readAllLines(folder.resolve("data/postmaster.pid"))
                        .getFirst();
                new ProcessBuilder(
                                "sh",
                                "-c",
                                "kill -%s %s $(pgrep -P %s)".formatted(frozen ? "STOP" : "CONT", first, first))
                        .start()
                        .waitFor();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }

        /** Kills all its processes at once. */
        public void kill() {
            try {
                String first = Files.readAllLines(folder.resolve("data/postmaster.pid"))
                        .getFirst();
                new ProcessBuilder(
                                "sh",
                                "-c",
                                "kill -KILL $(pgrep -P %s) %s; while kill -0 %s; do sleep 0.05; done 2>/dev/null"
                                        .formatted(first, first, first))
                        .start()
                        .waitFor();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }

        @Override
        public void close() {
            script("remove", folder);
        }
    }

    private static final class Shared {
        private static final TestDatabase SERVER = server();

        private static TestDatabase server() {
            String given = System.getenv("HOLTRA_TEST_DATABASE");
            if (given != null) {
                return new TestDatabase(given, System.getenv("HOLTRA_TEST_DATABASE_PASSWORD"));
            }
            Cluster cluster = Cluster.make();
            Runtime.getRuntime().addShutdownHook(new Thread(cluster::close));
            return cluster.start();
        }
    }

    /** What all databases of the shared cluster are copies of: to copy tables is quicker than to make them. */
    private static final class Template {
        private static final String NAME = migrated();

        private static String migrated() {
            TestDatabase template = Shared.SERVER.newDatabase();
            Flyway.configure()
                    .dataSource(template.url, "holtra", template.password)
                    .load()
                    .migrate();
            return template.url.substring(template.url.lastIndexOf('/') + 1);
        }
    }

    /** A new database in the shared cluster, with its tables and nothing in them. */
    public static TestDatabase fresh() {
        return Shared.SERVER.newDatabase(" template " + Template.NAME);
    }

    /** A new database in the shared cluster without any tables. */
    public static TestDatabase empty() {
        return Shared.SERVER.newDatabase();
    }

    /** A new, empty database in the same cluster. */
    public TestDatabase newDatabase() {
        return newDatabase("");
    }

    private TestDatabase newDatabase(String template) {
        String name = "test_" + ProcessHandle.current().pid() + "_" + COUNT.incrementAndGet();
        String server = url.substring(0, url.lastIndexOf('/') + 1);
        try (Connection connection = new TestDatabase(server + "postgres", password).connect();
                var statement = connection.createStatement()) {
            statement.execute("create database " + name + template);
        } catch (SQLException e) {
            throw new IllegalStateException("a database for the test could not be made", e);
        }
        return new TestDatabase(server + name, password);
    }

    public Connection connect() throws SQLException {
        return DriverManager.getConnection(url, "holtra", password);
    }

    /** Runs a statement behind the service's back. */
    public int execute(String sql) {
        try (Connection connection = connect();
                var statement = connection.createStatement()) {
            return statement.executeUpdate(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    /** Runs a dump: many statements, some of which have results. */
    public void restore(String dump) {
        try (Connection connection = connect();
                var statement = connection.createStatement()) {
            statement.execute(dump);
        } catch (SQLException e) {
            throw new IllegalStateException("the dump could not be restored", e);
        }
    }

    /** The first column of all rows, as text. */
    public java.util.List<String> texts(String sql) {
        try (Connection connection = connect();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(sql)) {
            java.util.List<String> texts = new java.util.ArrayList<>();
            while (rows.next()) {
                texts.add(rows.getString(1));
            }
            return texts;
        } catch (SQLException e) {
            throw new IllegalStateException(sql, e);
        }
    }

    private static String script(String verb, Path folder) {
        try {
            Path script = root().resolve("bin/postgres");
            ProcessBuilder builder = new ProcessBuilder(script.toString(), verb, folder.toString())
                    .redirectError(ProcessBuilder.Redirect.INHERIT);
            builder.environment().put("HOLTRA_POSTGRES_FOR_TESTS", "1");
            Process process = builder.start();
            String output = new String(process.getInputStream().readAllBytes());
            if (process.waitFor() != 0) {
                throw new IllegalStateException(script + " " + verb + " failed");
            }
            return output;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** The project's folder. */
    public static Path root() {
        Path at = Path.of("").toAbsolutePath();
        while (!Files.exists(at.resolve("bin/postgres"))) {
            at = at.getParent();
        }
        return at;
    }
}
