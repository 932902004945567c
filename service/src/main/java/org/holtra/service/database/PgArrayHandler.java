package org.holtra.service.database;

import java.sql.Array;
import java.sql.CallableStatement;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Map;
import java.util.UUID;
import org.apache.ibatis.type.BaseTypeHandler;
import org.apache.ibatis.type.JdbcType;
import org.apache.ibatis.type.MappedTypes;

/** Java arrays to PostgreSQL arrays, which is how many rows travel in one statement. */
@MappedTypes({
    UUID[].class,
    String[].class,
    Instant[].class,
    Integer[].class,
    Long[].class,
    Boolean[].class,
    byte[][].class
})
public final class PgArrayHandler extends BaseTypeHandler<Object[]> {

    private static final Map<Class<?>, String> TYPES = Map.of(
            UUID.class, "uuid",
            String.class, "text",
            Instant.class, "timestamptz",
            Integer.class, "int4",
            Long.class, "int8",
            Boolean.class, "bool",
            byte[].class, "bytea");

    @Override
    public void setNonNullParameter(PreparedStatement statement, int index, Object[] value, JdbcType type)
            throws SQLException {
        String elements = TYPES.get(value.getClass().getComponentType());
        if (elements == null) {
            throw new SQLException("no array type for " + value.getClass());
        }
        statement.setArray(index, statement.getConnection().createArrayOf(elements, value));
    }

    @Override
    public Object[] getNullableResult(ResultSet rows, String column) throws SQLException {
        return elements(rows.getArray(column));
    }

    @Override
    public Object[] getNullableResult(ResultSet rows, int column) throws SQLException {
        return elements(rows.getArray(column));
    }

    @Override
    public Object[] getNullableResult(CallableStatement statement, int column) throws SQLException {
        return elements(statement.getArray(column));
    }

    private static Object[] elements(Array array) throws SQLException {
        return array == null ? null : (Object[]) array.getArray();
    }
}
