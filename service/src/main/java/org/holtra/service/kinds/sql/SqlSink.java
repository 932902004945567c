package org.holtra.service.kinds.sql;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/** Writes a row for each delivery. The rows of a batch are one transaction; one that is refused is tried again in halves. */
final class SqlSink implements Sink {

    private final Outlet outlet;
    private final SqlTarget target;
    private final InstantSource clock;
    private final HikariDataSource pool;

    /** As the database had it last; null before the first row. */
    private volatile Columns columns;

    SqlSink(Outlet outlet, Credential credential, Databases databases, InstantSource clock) {
        this.outlet = outlet;
        this.target = SqlTarget.of(outlet);
        this.clock = clock;
        HikariConfig config = new HikariConfig();
        config.setPoolName("sql-outlet-" + outlet.name());
        config.setJdbcUrl(Databases.url(target));
        config.setDataSourceProperties(databases.properties(target, credential));
        config.setMaximumPoolSize(target.connections());
        config.setMinimumIdle(0);
        config.setConnectionTimeout(target.timeout().toMillis());
        // The outlet opens whether or not its database is there.
        config.setInitializationFailTimeout(-1);
        this.pool = new HikariDataSource(config);
    }

    @Override
    public boolean keepsOrderWithin() {
        return true;
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        try {
            Insertion.of(content.body(), target.keyColumn(), "");
            return Optional.empty();
        } catch (IllegalArgumentException e) {
            return Optional.of(e.getMessage());
        }
    }

    @Override
    public Attempted attempt(Request request) {
        List<Insertion> rows;
        try {
            rows = rows(request);
        } catch (IllegalArgumentException e) {
            return Attempted.unanswered(
                    new Verdict.Refused(e.getMessage()), "no row", new Exchange("nothing was sent", Map.of()));
        }
        Exchange exchange = exchange(fitting(rows));
        boolean sent = false;
        try (Connection connection = pool.getConnection()) {
            if (columns == null) {
                columns = Columns.read(connection, target);
            }
            sent = true;
            return write(connection, fitting(rows), exchange);
        } catch (SQLException e) {
            return failed(cause(e), exchange, sent);
        }
    }

    /** The pool's own exception tells what kept it from connecting as its cause. */
    private static SQLException cause(SQLException e) {
        return e.getCause() instanceof SQLException inner ? inner : e;
    }

    private List<Insertion> rows(Request request) {
        return request.parts().stream()
                .map(part -> Insertion.of(part.content().body(), target.keyColumn(), part.idempotencyKey()))
                .toList();
    }

    /** Where rows are known by other columns, a table need not have one for the key. */
    private List<Insertion> fitting(List<Insertion> rows) {
        Columns known = columns;
        boolean keyed = target.updates().isEmpty()
                || known == null
                || !known.exists()
                || known.types().containsKey(target.keyColumn());
        return keyed
                ? rows
                : rows.stream().map(row -> row.without(target.keyColumn())).toList();
    }

    private Attempted write(Connection connection, List<Insertion> rows, Exchange exchange) {
        try {
            transaction(connection, rows);
            return written(exchange, rows.size());
        } catch (SQLException e) {
            columns = null; // the table may have been changed
            return failed(e, exchange, true);
        }
    }

    private void transaction(Connection connection, List<Insertion> rows) throws SQLException {
        connection.setAutoCommit(false);
        try {
            for (List<Insertion> alike : byColumns(rows)) {
                insert(connection, alike);
            }
            connection.commit();
        } catch (SQLException e) {
            rollBack(connection, e);
            throw e;
        } finally {
            if (!connection.isClosed()) {
                connection.setAutoCommit(true);
            }
        }
    }

    private static void rollBack(Connection connection, SQLException why) {
        try {
            connection.rollback();
        } catch (SQLException e) {
            why.addSuppressed(e);
        }
    }

    /** Runs of rows with the same columns, in their order. */
    private static List<List<Insertion>> byColumns(List<Insertion> rows) {
        List<List<Insertion>> runs = new ArrayList<>();
        Set<String> last = null;
        for (Insertion row : rows) {
            if (!row.columns().equals(last)) {
                runs.add(new ArrayList<>());
                last = row.columns();
            }
            runs.getLast().add(row);
        }
        return runs;
    }

    private void insert(Connection connection, List<Insertion> alike) throws SQLException {
        String sql = alike.getFirst().statement(target, columns.types());
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setQueryTimeout((int) Math.max(1, target.timeout().toSeconds()));
            List<String> names = new ArrayList<>(alike.getFirst().columns());
            for (Insertion row : alike) {
                for (int i = 0; i < names.size(); i++) {
                    statement.setString(i + 1, row.values().get(names.get(i)));
                }
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private Attempted written(Exchange exchange, int rows) {
        String words = rows == 1 ? "row written" : rows + " rows written";
        Verdict verdict = judged(new Answer("00000", Map.of(), words)).orElse(new Verdict.Delivered());
        return new Attempted(verdict, "00000", "written", exchange.answered(words.getBytes(StandardCharsets.UTF_8)));
    }

    private Attempted failed(SQLException e, Exchange exchange, boolean sent) {
        SQLException its = e.getNextException() == null ? e : e.getNextException();
        SqlFailure failure = SqlFailure.of(its, target, sent);
        if (failure.code() == null) {
            return Attempted.unanswered(failure.verdict(), "unreachable", exchange);
        }
        Verdict verdict =
                judged(new Answer(failure.code(), Map.of(), failure.words())).orElse(failure.verdict());
        return new Attempted(
                verdict,
                failure.code(),
                failure.code(),
                exchange.answered(failure.words().getBytes(StandardCharsets.UTF_8)));
    }

    private Optional<Verdict> judged(Answer answer) {
        return outlet.manner().verdicts().judge(answer, clock.instant());
    }

    @Override
    public Exchange preview(Request request) {
        return exchange(fitting(rows(request)));
    }

    private Exchange exchange(List<Insertion> rows) {
        Columns known = columns;
        Map<String, String> fields = new LinkedHashMap<>();
        rows.getFirst().values().forEach((column, value) -> fields.put(column, String.valueOf(value)));
        return new Exchange(
                rows.getFirst().statement(target, known == null ? Map.of() : known.types())
                        + (rows.size() > 1 ? " (" + rows.size() + " rows)" : ""),
                fields);
    }

    @Override
    public void close() {
        pool.close();
    }
}
