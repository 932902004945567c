package org.holtra.service.journal.sql;

import java.time.Instant;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.service.journal.entry.Cursor;

@Mapper
public interface CursorMapper {

    /** Null if the inlet has read nothing yet. */
    @Select("select position from inlet_cursor where inlet = #{inlet}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    String find(@Param("inlet") String inlet);

    /** Fails, and with it the transaction, if the cursor stands elsewhere: a position is never null. */
    @Insert("""
            insert into inlet_cursor (inlet, position, moved)
            values (#{c.inlet}, #{c.after}, #{at})
            on conflict (inlet) do update set
              position = case when inlet_cursor.position = #{c.before} then #{c.after} end, moved = #{at}
            """)
    void move(@Param("c") Cursor cursor, @Param("at") Instant at);
}
