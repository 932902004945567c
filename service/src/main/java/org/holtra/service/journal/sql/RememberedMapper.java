package org.holtra.service.journal.sql;

import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
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
}
