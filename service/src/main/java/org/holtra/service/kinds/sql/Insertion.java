package org.holtra.service.kinds.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.service.dispatch.ShapedJson;
import tools.jackson.databind.json.JsonMapper;

/**
 * A row that is to be written, and the statement that writes it. Rows of the same columns have the same statement. Values go as
 * texts, and the database reads them as its columns' types: it knows what is a time or a number better than anybody.
 *
 * @param values by column, as texts; null for none
 */
record Insertion(Map<String, String> values) {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final double EXACT = 1L << 53;

    /** @throws IllegalArgumentException if the body is no object, with a sentence for people */
    static Insertion of(byte[] body, String keyColumn, String key) {
        Object read = ShapedJson.of(body);
        if (!(read instanceof Map<?, ?> object) || object.isEmpty()) {
            throw new IllegalArgumentException(
                    "the lane's shape has to make an object, whose names are those of columns");
        }
        Map<String, String> values = new LinkedHashMap<>();
        object.forEach((column, value) -> values.put(String.valueOf(column), text(value)));
        values.putIfAbsent(keyColumn, key);
        return new Insertion(values);
    }

    private static String text(Object value) {
        return switch (value) {
            case null -> null;
            // 5.0 is no integer to a database, and all numbers of expressions are such.
            case Double number
            when number == Math.rint(number) && Math.abs(number) < EXACT -> Long.toString(number.longValue());
            case Map<?, ?> object -> JSON.writeValueAsString(object);
            case List<?> list -> JSON.writeValueAsString(list);
            default -> value.toString();
        };
    }

    /** The same without the key, for a table that has no column for it. */
    Insertion without(String column) {
        Map<String, String> fewer = new LinkedHashMap<>(values);
        fewer.remove(column);
        return new Insertion(fewer);
    }

    Set<String> columns() {
        return values.keySet();
    }

    /** @param types of the table's columns; one that it does not have goes as text, and the database says so */
    String statement(SqlTarget target, Map<String, String> types) {
        List<String> names = new ArrayList<>(columns());
        String written = names.stream().map(SqlTarget::quoted).collect(Collectors.joining(", "));
        String places = names.stream()
                .map(name -> "?::" + types.getOrDefault(name, "text"))
                .collect(Collectors.joining(", "));
        return "insert into " + target.quotedTable() + " (" + written + ") values (" + places + ")"
                + onConflict(target, names);
    }

    private static String onConflict(SqlTarget target, List<String> names) {
        if (target.updates().isEmpty()) {
            return " on conflict (" + SqlTarget.quoted(target.keyColumn()) + ") do nothing";
        }
        String keys = target.updates().stream().map(SqlTarget::quoted).collect(Collectors.joining(", "));
        String set = names.stream()
                .filter(name -> !target.updates().contains(name))
                .map(name -> SqlTarget.quoted(name) + " = excluded." + SqlTarget.quoted(name))
                .collect(Collectors.joining(", "));
        return " on conflict (" + keys + ") do " + (set.isEmpty() ? "nothing" : "update set " + set);
    }
}
