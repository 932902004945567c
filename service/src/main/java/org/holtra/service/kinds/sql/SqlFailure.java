package org.holtra.service.kinds.sql;

import java.net.ConnectException;
import java.net.UnknownHostException;
import java.sql.SQLException;
import org.holtra.core.delivery.Verdict;
import org.holtra.service.reach.CheckedAddresses;
import org.postgresql.util.PSQLException;
import org.postgresql.util.ServerErrorMessage;

/**
 * What an error of the database means for a delivery, by its SQLSTATE (ISO/IEC 9075; PostgreSQL's appendix A).
 *
 * @param code the SQLSTATE; null where the database said nothing
 * @param words for people
 */
record SqlFailure(String code, String words, Verdict verdict) {

    /** @param sent whether the row was on its way, so that it may have been written */
    static SqlFailure of(SQLException e, SqlTarget target, boolean sent) {
        for (Throwable at = e; at != null; at = at.getCause()) {
            if (at instanceof CheckedAddresses.OutOfReach far) {
                return broken(null, far.getMessage());
            }
            if (at instanceof UnknownHostException) {
                return broken(null, "no host is called " + target.host());
            }
            if (at instanceof ConnectException) {
                return broken(null, "nobody listens at " + target.host() + ", port " + target.port());
            }
        }
        String code = e.getSQLState();
        String said = said(e);
        if (code == null || code.length() < 5) {
            return new SqlFailure(code, said, new Verdict.TryLater(said, null, sent, true));
        }
        return switch (code.substring(0, 2)) {
            case "08", "57", "53" ->
                new SqlFailure(code, said, new Verdict.TryLater(said, null, sent, !code.startsWith("53")));
            case "40", "55" -> new SqlFailure(code, said, new Verdict.TryLater(said, null, false, false));
            case "28" -> blocked(code, "the database refuses the user or the password: " + said);
            case "3D", "3F" -> blocked(code, said);
            case "42" -> blocked(code, denied(code, said, target));
            case "22", "23" -> new SqlFailure(code, said, new Verdict.Refused("the database refuses the row: " + said));
            default -> new SqlFailure(code, said, new Verdict.TryLater(said, null, false, false));
        };
    }

    private static SqlFailure broken(String code, String words) {
        return new SqlFailure(code, words, new Verdict.TryLater(words, null, false, true));
    }

    private static SqlFailure blocked(String code, String words) {
        return new SqlFailure(code, words, new Verdict.OutletBlocked(words));
    }

    private static String denied(String code, String said, SqlTarget target) {
        return switch (code) {
            case "42501" -> "the user may not write into " + target.table() + ": " + said;
            case "42P01" -> "there is no table " + target.table() + "; the outlet's check offers one";
            case "42703" -> said + "; take it out of the lane's shape, or add the column";
            case "42P10" ->
                "no unique index of " + target.table() + " has the columns that tell one row from another: " + said;
            default -> said;
        };
    }

    /** The database's own sentence, with the column it is about. */
    private static String said(SQLException e) {
        ServerErrorMessage server = e instanceof PSQLException known ? known.getServerErrorMessage() : null;
        if (server == null || server.getMessage() == null) {
            return String.valueOf(e.getMessage());
        }
        return server.getMessage() + (server.getColumn() == null ? "" : " (column " + server.getColumn() + ")");
    }
}
