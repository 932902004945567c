package org.holtra.service.kinds.sql;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.Nearest;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.credentials.Credential;

/** Looks whether rows could be written: the database, the table, its columns and what the user may do. Writes nothing. */
final class SqlCheck {

    private final SqlTarget target;
    private final Credential credential;
    private final Databases databases;
    private final List<Content> samples;
    private final CheckSteps steps = new CheckSteps();

    /** @param samples what lanes would write */
    SqlCheck(SqlTarget target, Credential credential, Databases databases, List<Content> samples) {
        this.samples = samples;
        this.target = target;
        this.credential = credential;
        this.databases = databases;
    }

    List<CheckStep> run() {
        try (Connection connection = databases.connect(target, credential)) {
            steps.passed("connected", "at " + target.host() + ", port " + target.port());
            steps.passed(
                    "signed in", credential == null ? "without a user" : "as user `" + credential.field("user") + "`");
            table(connection);
        } catch (SQLException e) {
            SqlFailure failure = SqlFailure.of(e, target, false);
            boolean connected = failure.code() != null && !failure.code().startsWith("08");
            if (connected) {
                steps.passed("connected", "at " + target.host() + ", port " + target.port());
            }
            steps.failed(
                    connected ? "signed in" : "connected",
                    failure.words(),
                    connected
                            ? "Look at the database's name, and at the user and the password in the credential."
                            : "Look at the outlet's address, and whether the database runs.");
        }
        return steps.all();
    }

    private void table(Connection connection) throws SQLException {
        Columns columns = Columns.read(connection, target);
        if (!columns.exists()) {
            steps.failed(
                    "table found",
                    "there is no table " + target.table(),
                    "Name another, or have it made, such as by: " + TableProposal.of(target, samples));
            return;
        }
        steps.passed("table found", target.table() + " has " + columns.types().size() + " columns");
        identity(columns);
        for (Content sample : samples) {
            if (!fits(connection, columns, sample)) {
                return;
            }
        }
        if (!samples.isEmpty()) {
            steps.passed("columns", "what lanes would write now has columns of fitting types");
        }
        allowed(connection);
    }

    /** Whether what a lane would write has its columns, of types that take the values. */
    private boolean fits(Connection connection, Columns columns, Content sample) throws SQLException {
        Insertion row;
        try {
            row = Insertion.of(sample.body(), target.keyColumn(), "");
        } catch (IllegalArgumentException e) {
            steps.failed("columns", e.getMessage(), "Change the shape of the lane.");
            return false;
        }
        for (Map.Entry<String, String> value : row.values().entrySet()) {
            String name = value.getKey();
            String type = columns.types().get(name);
            if (type == null && !name.equals(target.keyColumn())) {
                steps.failed(
                        "columns",
                        "the table has no column " + name
                                + Nearest.of(name, columns.types().keySet())
                                        .map(near -> "; is " + near + " meant?")
                                        .orElse(""),
                        "Add it, or take it out of the shape of the lane.");
                return false;
            }
            if (type != null && !takes(connection, type, value.getValue())) {
                steps.failed(
                        "columns",
                        "column " + name + " is of type " + type + ", and a lane would write `" + value.getValue()
                                + "`",
                        "Change the shape of the lane, or the column.");
                return false;
            }
        }
        Set<String> missing = new TreeSet<>(columns.needed());
        missing.removeAll(row.columns());
        if (!missing.isEmpty()) {
            steps.failed(
                    "columns",
                    "a lane would write nothing into " + String.join(", ", missing) + ", which must not be empty",
                    "Put it into the shape of the lane, or give the column a default.");
            return false;
        }
        return true;
    }

    private static boolean takes(Connection connection, String type, String value) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("select ?::" + type)) {
            statement.setString(1, value);
            statement.executeQuery().close();
            return true;
        } catch (SQLException e) {
            if (String.valueOf(e.getSQLState()).startsWith("22")) {
                return false;
            }
            throw e;
        }
    }

    /** By which columns a row that comes again is known. */
    private void identity(Columns columns) {
        Set<String> wanted = target.updates().isEmpty() ? Set.of(target.keyColumn()) : new TreeSet<>(target.updates());
        Set<String> missing = new TreeSet<>(wanted);
        missing.removeAll(columns.types().keySet());
        String names = String.join(", ", wanted);
        if (!missing.isEmpty()) {
            steps.failed(
                    "known again",
                    "the table has no column " + String.join(", ", missing),
                    target.updates().isEmpty()
                            ? "Add it: alter table " + target.table() + " add column " + target.keyColumn()
                                    + " text unique; or name another as keyColumn."
                            : "Add it, or name others as updates.");
        } else if (!columns.isUnique(wanted)) {
            steps.failed(
                    "known again",
                    "no unique index has just the columns " + names + ", so that a row could be written twice",
                    "Make one: create unique index on " + target.table() + " (" + names + ");");
        } else {
            steps.passed("known again", "a row that comes again is known by " + names);
        }
    }

    private void allowed(Connection connection) throws SQLException {
        Set<String> missing = new TreeSet<>();
        for (String privilege :
                target.updates().isEmpty() ? List.of("INSERT") : List.of("INSERT", "UPDATE", "SELECT")) {
            try (PreparedStatement statement = connection.prepareStatement("select has_table_privilege(?, ?)")) {
                statement.setString(1, target.quotedTable());
                statement.setString(2, privilege);
                try (ResultSet row = statement.executeQuery()) {
                    if (row.next() && !row.getBoolean(1)) {
                        missing.add(privilege);
                    }
                }
            }
        }
        if (missing.isEmpty()) {
            steps.passed("allowed", "the user may write into it");
        } else {
            String privileges = String.join(", ", missing);
            steps.failed(
                    "allowed",
                    "the user lacks the privilege " + privileges,
                    "Have it granted: grant " + privileges.toLowerCase(java.util.Locale.ROOT) + " on " + target.table()
                            + " to " + (credential == null ? "…" : credential.field("user")) + ";");
        }
    }
}
