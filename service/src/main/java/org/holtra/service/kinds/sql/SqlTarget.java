package org.holtra.service.kinds.sql;

import java.net.URI;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Outlet;
import org.holtra.core.text.DurationText;

/**
 * Where rows go.
 *
 * @param table with its schema; {@code public} where none is said
 * @param updates columns that tell one row from another; empty where rows are inserted only
 * @param authority in PEM; null for those of this machine only
 */
record SqlTarget(
        String host,
        int port,
        String database,
        String table,
        String keyColumn,
        List<String> updates,
        boolean tls,
        String authority,
        Duration timeout,
        int connections) {

    private static final int USUAL_PORT = 5432;
    private static final int USUAL_CONNECTIONS = 8;
    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(10);

    static SqlTarget of(Outlet outlet) {
        Map<String, Object> to = outlet.to();
        URI address = URI.create((String) to.get("address"));
        String table = (String) to.get("table");
        return new SqlTarget(
                address.getHost(),
                address.getPort() < 0 ? USUAL_PORT : address.getPort(),
                address.getPath().substring(1),
                table.contains(".") ? table : "public." + table,
                to.get("keyColumn") instanceof String column ? column : "message_key",
                to.get("updates") instanceof List<?> columns
                        ? columns.stream().map(String::valueOf).toList()
                        : List.of(),
                Boolean.TRUE.equals(to.get("tls")),
                (String) to.get("authority"),
                to.get("timeout") instanceof String text ? DurationText.parse(text) : USUAL_TIMEOUT,
                to.get("concurrency") instanceof Number number ? number.intValue() : USUAL_CONNECTIONS);
    }

    String schemaName() {
        return table.substring(0, table.indexOf('.'));
    }

    String tableName() {
        return table.substring(table.indexOf('.') + 1);
    }

    /** As it stands in a statement. */
    String quotedTable() {
        return quoted(schemaName()) + "." + quoted(tableName());
    }

    /** As people write it: quoted only where it has to be. */
    static String written(String name) {
        return name.matches("[a-z_][a-z0-9_]*") ? name : quoted(name);
    }

    static String quoted(String name) {
        return '"' + name.replace("\"", "\"\"") + '"';
    }
}
