package org.holtra.service.kinds.sql;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * A table as the database has it.
 *
 * @param types of its columns, by name, as they are written in a cast
 * @param needed columns that have no default and may not be null
 * @param unique the sets of columns of its unique indexes
 */
record Columns(Map<String, String> types, Set<String> needed, List<Set<String>> unique) {

    private static final String COLUMNS = """
            select a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull and not a.atthasdef and a.attidentity = ''
            from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
            where n.nspname = ? and c.relname = ? and a.attnum > 0 and not a.attisdropped and a.attgenerated = ''
            order by a.attnum""";

    private static final String UNIQUE = """
            select i.indexrelid::text, a.attname
            from pg_index i join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
            join pg_attribute a on a.attrelid = c.oid and a.attnum = any(i.indkey::int2[])
            where n.nspname = ? and c.relname = ? and i.indisunique and i.indpred is null and i.indexprs is null""";

    /** Without any column if there is no such table, or none that may be seen. */
    static Columns read(Connection connection, SqlTarget target) throws SQLException {
        Map<String, String> types = new LinkedHashMap<>();
        Set<String> needed = new LinkedHashSet<>();
        each(connection, COLUMNS, target, row -> {
            types.put(row.getString(1), row.getString(2));
            if (row.getBoolean(3)) {
                needed.add(row.getString(1));
            }
        });
        Map<String, Set<String>> unique = new LinkedHashMap<>();
        each(
                connection,
                UNIQUE,
                target,
                row -> unique.computeIfAbsent(row.getString(1), index -> new LinkedHashSet<>())
                        .add(row.getString(2)));
        return new Columns(types, needed, new ArrayList<>(unique.values()));
    }

    private interface Row {
        void take(ResultSet row) throws SQLException;
    }

    private static void each(Connection connection, String sql, SqlTarget target, Row row) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setString(1, target.schemaName());
            statement.setString(2, target.tableName());
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    row.take(rows);
                }
            }
        }
    }

    boolean exists() {
        return !types.isEmpty();
    }

    boolean isUnique(Set<String> columns) {
        return unique.stream().anyMatch(columns::equals);
    }
}
