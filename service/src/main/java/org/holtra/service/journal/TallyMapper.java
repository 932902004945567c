package org.holtra.service.journal;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface TallyMapper {

    @Insert("""
            insert into tally (minute, what, name, count)
            select * from unnest(#{minutes}::timestamptz[], #{whats}::text[], #{names}::text[], #{counts}::int8[])
            order by 1, 2, 3
            on conflict (minute, what, name) do update set count = tally.count + excluded.count
            """)
    void add(
            @Param("minutes") Instant[] minutes,
            @Param("whats") String[] whats,
            @Param("names") String[] names,
            @Param("counts") Long[] counts);

    @Select("select minute, what, name, count from tally where minute >= #{from} and minute < #{to} order by minute")
    List<TallyRow> between(@Param("from") Instant from, @Param("to") Instant to);
}
