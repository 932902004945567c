package org.holtra.service.introductions;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface MadeThereMapper {

    record Row(
            long number,
            String outlet,
            String device,
            String what,
            String name,
            String thereId,
            Instant at,
            String byWhom,
            int revision,
            String differs,
            Instant compared) {}

    /** Many, column by column. */
    record MadeColumns(
            String[] outlet,
            String[] device,
            String[] what,
            String[] name,
            String[] thereId,
            String[] by,
            Integer[] revision) {}

    @Insert("""
            insert into made_there (outlet, device, what, name, there_id, at, by_whom, revision)
            select w.outlet, w.device, w.what, w.name, w.there_id, #{at}, w.by_whom, w.revision
            from unnest(#{c.outlet}::text[], #{c.device}::text[], #{c.what}::text[], #{c.name}::text[],
                        #{c.thereId}::text[], #{c.by}::text[], #{c.revision}::integer[])
              as w(outlet, device, what, name, there_id, by_whom, revision)
            on conflict (outlet, device, what) where removed is null do update
              set name = excluded.name, there_id = excluded.there_id, at = excluded.at, by_whom = excluded.by_whom,
                  revision = excluded.revision, differs = null, compared = null
            """)
    void made(@Param("c") MadeColumns columns, @Param("at") Instant at);

    @Select("""
            select distinct device from made_there where outlet = #{outlet} and removed is null and device > #{after}
            order by device limit #{limit}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> devices(@Param("outlet") String outlet, @Param("after") String after, @Param("limit") int limit);

    /** What is there still. */
    @Select("""
            select number, outlet, device, what, name, there_id, at, by_whom, revision, differs, compared from made_there
            where outlet = #{outlet} and removed is null and number > #{after} and (not #{differing} or differs <> '[]')
            order by number limit #{limit}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> list(
            @Param("outlet") String outlet,
            @Param("after") long after,
            @Param("differing") boolean differing,
            @Param("limit") int limit);

    @Select("select count(*) from made_there where outlet = #{outlet} and removed is null and what = #{what}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    long count(@Param("outlet") String outlet, @Param("what") String what);

    @Update("""
            update made_there set differs = #{differs}, compared = #{now}
            where outlet = #{outlet} and device = #{device} and removed is null
            """)
    void compared(
            @Param("outlet") String outlet,
            @Param("device") String device,
            @Param("differs") String differs,
            @Param("now") Instant now);

    @Update("""
            update made_there set removed = #{now}, removed_by = #{by}
            where outlet = #{outlet} and device = any(#{devices}::text[]) and removed is null
            """)
    int removed(
            @Param("outlet") String outlet,
            @Param("devices") String[] devices,
            @Param("by") String by,
            @Param("now") Instant now);
}
