package org.holtra.service.lookouts;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface AlarmMapper {

    String ALARM = """
            select a.id, a.number, a.lookout, a.key, a.device, a.point, a.simulated, a.since, a.raised, a.cleared, a.cause,
                   a.text, a.value, a.extreme, a.extreme_at, a.told, a.acknowledged, a.acknowledged_by,
                   s.until as shelved_until
            from alarm a left join shelf s on s.lookout = a.lookout and s.key = a.key and a.cleared is null
                                              and s.until > #{now}
            """;

    @Insert("""
            insert into alarm (id, lookout, key, device, point, simulated, since, raised, cause, text, value, extreme,
                               extreme_at, told)
            values (#{a.id}, #{a.lookout}, #{a.key}, #{a.device}, #{a.point}, #{a.simulated}, #{a.since}, #{a.raised},
                    #{a.cause}, #{a.text}, #{a.value}, #{a.extreme}, #{a.extremeAt}, #{a.told})
            """)
    void raise(@Param("a") Alarm alarm);

    @Update("""
            update alarm set cleared = #{at}, extreme = coalesce(#{extreme}::float8, extreme),
                             extreme_at = coalesce(#{extremeAt}::timestamptz, extreme_at)
            where id = #{id}
            """)
    void clear(
            @Param("id") UUID id,
            @Param("at") Instant at,
            @Param("extreme") Double extreme,
            @Param("extremeAt") Instant extremeAt);

    @Update("""
            update alarm set extreme = #{extreme}, extreme_at = #{at}
            where lookout = #{lookout} and key = #{key} and cleared is null
            """)
    void further(
            @Param("lookout") String lookout,
            @Param("key") String key,
            @Param("extreme") Double extreme,
            @Param("at") Instant at);

    @Select(ALARM + "where a.lookout = #{lookout} and a.key = #{key} and a.cleared is null")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Optional<Alarm> open(@Param("lookout") String lookout, @Param("key") String key, @Param("now") Instant now);

    /** The lookout is no longer there. */
    @Update(
            "update alarm set cleared = #{now}, text = text || '; its lookout was removed' where lookout = #{lookout} and cleared is null")
    int abandon(@Param("lookout") String lookout, @Param("now") Instant now);

    @Select(ALARM + """
            where (#{q.lookout}::text is null or a.lookout = #{q.lookout})
              and (#{q.device}::text is null or a.device = #{q.device})
              and (#{q.state}::text is null or #{q.state} = case
                     when a.cleared is not null then 'cleared' when s.until is not null then 'shelved'
                     when a.acknowledged is not null then 'acknowledged' else 'open' end)
              and (#{q.from}::timestamptz is null or a.cleared is null or a.cleared >= #{q.from})
              and (#{after.number}::bigint is null
                   or (a.cleared is not null) > #{after.cleared}::boolean
                   or (a.cleared is not null) = #{after.cleared}::boolean
                      and (a.raised, a.number) < (select l.raised, l.number from alarm l where l.number = #{after.number}))
            order by a.cleared is not null, a.raised desc, a.number desc limit #{q.limit}
            """)
    List<Alarm> list(@Param("q") Alarms.Query query, @Param("after") Alarms.Position after, @Param("now") Instant now);

    @Select(ALARM + "where a.number = #{number}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Optional<Alarm> find(@Param("number") long number, @Param("now") Instant now);

    @Select(ALARM + "where a.cause = #{message} or a.id = #{message} order by a.number")
    List<Alarm> ofMessage(@Param("message") UUID message, @Param("now") Instant now);

    /** Not told though nobody shelves them any more. */
    @Select(ALARM + "where not a.told and a.cleared is null and s.until is null for update of a skip locked")
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Alarm> untold(@Param("now") Instant now);

    @Update("update alarm set told = true where id = #{id}")
    void told(@Param("id") UUID id);

    @Update("update alarm set acknowledged = #{at}, acknowledged_by = #{by} where id = #{id} and acknowledged is null")
    int acknowledge(@Param("id") UUID id, @Param("by") String by, @Param("at") Instant at);

    @Insert(
            "insert into alarm_act (alarm, at, by_whom, act, text, until) values (#{alarm}, #{a.at}, #{a.by}, #{a.act}, #{a.text}, #{a.until})")
    void note(@Param("alarm") UUID alarm, @Param("a") Alarm.Act act);

    @Select("select at, by_whom as by, act, text, until from alarm_act where alarm = #{alarm} order by at")
    List<Alarm.Act> acts(@Param("alarm") UUID alarm);

    @Insert("""
            insert into shelf (lookout, key, until, by_whom) values (#{lookout}, #{key}, #{until}, #{by})
            on conflict (lookout, key) do update set until = excluded.until, by_whom = excluded.by_whom
            """)
    void shelve(
            @Param("lookout") String lookout,
            @Param("key") String key,
            @Param("until") Instant until,
            @Param("by") String by);

    @Delete("delete from shelf where lookout = #{lookout} and key = #{key}")
    int unshelve(@Param("lookout") String lookout, @Param("key") String key);

    @Select("select until from shelf where lookout = #{lookout} and key = #{key} and until > #{now}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Optional<Instant> shelved(@Param("lookout") String lookout, @Param("key") String key, @Param("now") Instant now);

    /** How a lookout has done. */
    @Select("""
            select l.lookout, count(*) filter (where a.cleared is null) as open,
                   count(*) filter (where a.raised > #{since}) as raised, max(a.raised) as last
            from unnest(#{lookouts}::text[]) as l(lookout) join alarm a on a.lookout = l.lookout group by l.lookout
            """)
    List<Alarms.Record> records(@Param("lookouts") String[] lookouts, @Param("since") Instant since);

    @Select("select lane, count(*) as keys from memory where lane = any(#{lanes}::text[]) group by lane")
    List<Alarms.Watched> watched(@Param("lanes") String[] lanes);

    @Select("""
            select count(*) from alarm a where cleared is null and acknowledged is null
              and not exists (select 1 from shelf s where s.lookout = a.lookout and s.key = a.key and s.until > #{now})
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    long countOpen(@Param("now") Instant now);

    @Delete("delete from alarm where cleared < #{before}")
    int forget(@Param("before") Instant before);
}
