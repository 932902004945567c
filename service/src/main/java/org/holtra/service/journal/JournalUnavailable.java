package org.holtra.service.journal;

import java.sql.SQLException;

/** The journal cannot take anything now. Nothing was kept, and whoever sent it must be told to come again. */
public final class JournalUnavailable extends RuntimeException {

    public JournalUnavailable(String why, Throwable cause) {
        super(why, cause);
    }

    /** Whether the data are at fault (SQLSTATE classes 22 and 23), and not the database. */
    static boolean isOfTheData(Throwable e) {
        for (Throwable at = e; at != null; at = at.getCause()) {
            if (at instanceof SQLException sql && sql.getSQLState() != null) {
                return sql.getSQLState().startsWith("22") || sql.getSQLState().startsWith("23");
            }
        }
        return false;
    }
}
