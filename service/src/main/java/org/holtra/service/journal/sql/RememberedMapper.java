package org.holtra.service.journal.sql;

import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Update;
import org.holtra.service.journal.entry.Remembered;

@Mapper
public interface RememberedMapper {

    @Insert("""
            insert into remembered (lane, key, zone, message, received)
            select * from unnest(#{c.lane}::text[], #{c.key}::text[], #{c.zone}::text[], #{c.message}::uuid[],
                                 #{c.received}::timestamptz[])
            on conflict do nothing
            """)
    void insert(@Param("c") Remembered.Columns columns);

    /** These are in the states of their keys from now on. */
    @Update("""
            update remembered r set seen = true from unnest(#{lanes}::text[], #{messages}::uuid[]) as u(lane, message)
            where r.message = u.message and r.lane = u.lane and not r.seen
            """)
    void see(@Param("lanes") String[] lanes, @Param("messages") UUID[] messages);

    /** These are in no memory any more. */
    @Delete("""
            delete from remembered r using unnest(#{lanes}::text[], #{messages}::uuid[]) as u(lane, message)
            where r.message = u.message and r.lane = u.lane
            """)
    void letGo(@Param("lanes") String[] lanes, @Param("messages") UUID[] messages);
}
