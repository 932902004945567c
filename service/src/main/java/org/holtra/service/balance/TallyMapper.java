package org.holtra.service.balance;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
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

    @Select("""
            select name, coalesce(sum(count) filter (where what = 'SENT' and minute >= #{day}), 0)::int8 as day_messages,
                   coalesce(sum(count) filter (where what = 'BYTES' and minute >= #{day}), 0)::int8 as day_bytes,
                   coalesce(sum(count) filter (where what = 'SENT' and minute >= #{week}), 0)::int8 as week_messages,
                   coalesce(sum(count) filter (where what = 'BYTES' and minute >= #{week}), 0)::int8 as week_bytes,
                   coalesce(sum(count) filter (where what = 'SENT'), 0)::int8 as month_messages,
                   coalesce(sum(count) filter (where what = 'BYTES'), 0)::int8 as month_bytes,
                   min(minute) as first
            from tally where what in ('SENT', 'BYTES') and minute >= #{month} group by name
            """)
    List<OutletTraffic> outlets(@Param("day") Instant day, @Param("week") Instant week, @Param("month") Instant month);

    @Select("""
            select minute, what, name, count from tally
            where minute >= #{from} and minute < #{to} and what = any(#{whats}::text[]) order by minute
            """)
    List<TallyRow> ofTypes(@Param("from") Instant from, @Param("to") Instant to, @Param("whats") String[] whats);

    /** Traffic of outlets is asked for by days: what is older than a day stands under the first minute of its own. */
    @Insert("""
            with old as (
              delete from tally where what in ('SENT', 'BYTES') and minute < #{before}
                and minute != date_trunc('day', minute, 'UTC')
              returning minute, what, name, count)
            insert into tally (minute, what, name, count)
            select date_trunc('day', minute, 'UTC'), what, name, sum(count) from old group by 1, 2, 3
            on conflict (minute, what, name) do update set count = tally.count + excluded.count
            """)
    void sumUpTraffic(@Param("before") Instant before);

    /** Counts of minutes that nobody asks for any more. */
    @Delete("delete from tally where minute < #{before}")
    void forget(@Param("before") Instant before);

    @Select("select minute, what, name, count from tally where minute >= #{from} and minute < #{to} order by minute")
    List<TallyRow> between(@Param("from") Instant from, @Param("to") Instant to);
}
