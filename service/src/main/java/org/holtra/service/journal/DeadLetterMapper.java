package org.holtra.service.journal;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface DeadLetterMapper {

    @Select("""
            <script>
            select d.delivery, d.message, d.lane, d.outlet, d.device, d.attempts, d.died, d.cause, d.reason, m.simulated
            from dead_letter d left join message m on m.received = d.received and m.id = d.message
            <where>
              <if test="lane != null">d.lane = #{lane}</if>
              <if test="outlet != null">and d.outlet = #{outlet}</if>
              <if test="cause != null">and d.cause = #{cause}</if>
            </where>
            order by d.died desc, d.delivery desc limit #{limit}
            </script>
            """)
    List<DeadLetter> list(
            @Param("lane") String lane,
            @Param("outlet") String outlet,
            @Param("cause") String cause,
            @Param("limit") int limit);

    @Select("select count(*) from dead_letter")
    long count();

    @Select("""
            select lane, outlet, cause, count(*) as count, min(died) as first, max(died) as last
            from dead_letter group by lane, outlet, cause order by count(*) desc, lane, cause
            """)
    List<DeadGroup> groups();

    /**
     * Back among the owed, due at once and for a fresh stretch of patience, for the outlet that the lane has now. Says for
     * which outlets.
     */
    @Select("""
            with gone as (delete from dead_letter where delivery = any(#{ids}::uuid[]) returning *),
            back as (
              insert into owed (id, message, received, lane, outlet, device, attempts, due, frozen, reason,
                                correction, point)
              select g.delivery, g.message, g.received, g.lane, coalesce(now.outlet, g.outlet), g.device, g.attempts, #{at},
                     case when coalesce(now.outlet, g.outlet) = g.outlet then g.frozen end, g.reason,
                     g.correction, g.point
              from gone g left join unnest(#{lanes}::text[], #{outlets}::text[]) as now(lane, outlet) on now.lane = g.lane
              returning outlet)
            select outlet from back
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> retry(
            @Param("ids") UUID[] ids,
            @Param("at") Instant at,
            @Param("lanes") String[] lanes,
            @Param("outlets") String[] outlets);

    @Insert("""
            with gone as (delete from dead_letter where delivery = any(#{ids}::uuid[]) returning *)
            insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts, reason, correction, point)
            select delivery, message, received, lane, outlet, 'dropped', #{at}, attempts, #{reason}, correction, point from gone
            """)
    int drop(@Param("ids") UUID[] ids, @Param("at") Instant at, @Param("reason") String reason);

    @Select("""
            <script>
            select delivery from dead_letter
            <where>
              <if test="lane != null">lane = #{lane}</if>
              <if test="outlet != null">and outlet = #{outlet}</if>
              <if test="cause != null">and cause = #{cause}</if>
            </where>
            </script>
            """)
    List<UUID> ids(@Param("lane") String lane, @Param("outlet") String outlet, @Param("cause") String cause);
}
