package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import org.apache.ibatis.exceptions.PersistenceException;
import org.junit.jupiter.api.Test;
import org.mybatis.spring.MyBatisSystemException;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.jdbc.CannotGetJdbcConnectionException;
import org.springframework.transaction.CannotCreateTransactionException;

class JournalUnavailableTest {

    private static SQLTransientConnectionException timedOut(SQLException cause) {
        String state = cause == null ? null : cause.getSQLState();
        return new SQLTransientConnectionException("Connection is not available, request timed out", state, cause);
    }

    /** As MyBatis wraps it outside a transaction. */
    private static MyBatisSystemException wrapped(SQLException cause) {
        return new MyBatisSystemException(
                "failed", new PersistenceException(new CannotGetJdbcConnectionException("none", cause)));
    }

    @Test
    void noConnectionToBeHadMayPassWhoeverAskedForIt() {
        assertThat(JournalUnavailable.mayPass(wrapped(timedOut(null)))).isTrue();
        assertThat(JournalUnavailable.mayPass(wrapped(timedOut(new SQLException("refused", "08001")))))
                .isTrue();
        assertThat(JournalUnavailable.mayPass(new CannotCreateTransactionException("failed", timedOut(null))))
                .isTrue();
    }

    @Test
    void aServerThatWillNotDoWhatItIsAskedDoesNotPass() {
        assertThat(JournalUnavailable.mayPass(wrapped(new SQLException("password", "28P01"))))
                .isFalse();
        assertThat(JournalUnavailable.mayPass(new DuplicateKeyException("twice", new SQLException("twice", "23505"))))
                .isFalse();
        assertThat(JournalUnavailable.mayPass(
                        new MyBatisSystemException("wrong", new PersistenceException("no such parameter"))))
                .isFalse();
    }

    @Test
    void whatIsNotOfTheDatabaseDoesNotPass() {
        assertThat(JournalUnavailable.mayPass(new IllegalStateException("a fault")))
                .isFalse();
    }
}
