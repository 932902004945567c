package org.holtra.service.database;

import java.sql.CallableStatement;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import org.apache.ibatis.type.BaseTypeHandler;
import org.apache.ibatis.type.JdbcType;
import org.apache.ibatis.type.MappedTypes;

/** Instants as {@code timestamptz}, without the detour over the process's time zone. */
@MappedTypes(Instant.class)
public final class InstantHandler extends BaseTypeHandler<Instant> {

    @Override
    public void setNonNullParameter(PreparedStatement statement, int index, Instant value, JdbcType type)
            throws SQLException {
        statement.setObject(index, value.atOffset(ZoneOffset.UTC));
    }

    @Override
    public Instant getNullableResult(ResultSet rows, String column) throws SQLException {
        return instant(rows.getObject(column, OffsetDateTime.class));
    }

    @Override
    public Instant getNullableResult(ResultSet rows, int column) throws SQLException {
        return instant(rows.getObject(column, OffsetDateTime.class));
    }

    @Override
    public Instant getNullableResult(CallableStatement statement, int column) throws SQLException {
        return instant(statement.getObject(column, OffsetDateTime.class));
    }

    private static Instant instant(OffsetDateTime time) {
        return time == null ? null : time.toInstant();
    }
}
