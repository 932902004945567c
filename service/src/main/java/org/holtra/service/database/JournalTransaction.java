package org.holtra.service.database;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.Executor;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.springframework.jdbc.datasource.DataSourceUtils;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionSystemException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * A transaction that senders and destinations wait for: a database that hangs fails it after a few seconds, so that it
 * is known to be away.
 */
@Component
public class JournalTransaction {

    private static final int LONGEST_WAIT_MILLIS = 3_000;
    private static final Executor AT_ONCE = Runnable::run;

    private final TransactionTemplate transaction;
    private final DataSource source;

    JournalTransaction(TransactionTemplate transaction, DataSource source) {
        this.transaction = transaction;
        this.source = source;
    }

    public <T> T execute(Supplier<T> work) {
        return Urgent.call(() -> transaction.execute(status -> {
            limit();
            return work.get();
        }));
    }

    /** The pool takes the limit away when the connection goes back. */
    private void limit() {
        Connection connection = DataSourceUtils.getConnection(source);
        try {
            connection.setNetworkTimeout(AT_ONCE, LONGEST_WAIT_MILLIS);
        } catch (SQLException e) {
            throw new TransactionSystemException("the connection is gone", e);
        } finally {
            DataSourceUtils.releaseConnection(connection, source);
        }
    }
}
