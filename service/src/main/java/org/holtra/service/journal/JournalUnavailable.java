package org.holtra.service.journal;

import java.sql.SQLException;
import java.util.Set;
import org.postgresql.util.PSQLException;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.transaction.TransactionException;

/** The journal cannot take anything now. Nothing was kept, and whoever sent it must be told to come again. */
public final class JournalUnavailable extends RuntimeException {

    private static final String CURSORS = "inlet_cursor";
    private static final Set<String> PASSING = Set.of("08", "40", "53", "57");

    public JournalUnavailable(String why, Throwable cause) {
        super(why, cause);
    }

    /** Whether the data are at fault (SQLSTATE classes 22 and 23), and not the database. */
    public static boolean isOfTheData(Throwable e) {
        for (Throwable at = e; at != null; at = at.getCause()) {
            if (at instanceof SQLException sql && sql.getSQLState() != null) {
                return sql.getSQLState().startsWith("22") || sql.getSQLState().startsWith("23");
            }
        }
        return false;
    }

    /** The same, and one message is at fault; not so where a page was read that is no longer the next one. */
    public static boolean isOfTheMessage(Throwable e) {
        for (Throwable at = e; at != null; at = at.getCause()) {
            if (at instanceof PSQLException sql && sql.getServerErrorMessage() != null) {
                return isOfTheData(e)
                        && !CURSORS.equals(sql.getServerErrorMessage().getTable());
            }
        }
        return isOfTheData(e);
    }

    /**
     * Whether it may go well later: the connection or the server is at fault (SQLSTATE classes 08, 53 and 57), a
     * transaction gave way to another (40), or there was no connection to be had.
     */
    public static boolean mayPass(Throwable e) {
        String state = null;
        boolean unreached = false;
        for (Throwable at = e; at != null; at = at.getCause()) {
            // Outside a transaction MyBatis wraps what kept it from a connection.
            unreached |= at instanceof TransactionException || at instanceof DataAccessResourceFailureException;
            if (at instanceof SQLException sql && sql.getSQLState() != null) {
                state = sql.getSQLState();
            }
        }
        return state == null ? unreached : PASSING.contains(state.substring(0, 2));
    }
}
