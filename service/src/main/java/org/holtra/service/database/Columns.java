package org.holtra.service.database;

import java.util.List;
import java.util.function.Function;
import java.util.function.IntFunction;

/** Rows turned into arrays, one a column, as statements with {@code unnest} take them. */
public final class Columns {

    private Columns() {}

    public static <T, C> C[] column(List<T> rows, Function<T, C> value, IntFunction<C[]> array) {
        C[] column = array.apply(rows.size());
        for (int i = 0; i < column.length; i++) {
            column[i] = value.apply(rows.get(i));
        }
        return column;
    }
}
