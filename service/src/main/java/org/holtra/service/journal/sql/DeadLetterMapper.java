package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.service.journal.entry.DeadChoice;
import org.holtra.service.journal.entry.DeadContent;
import org.holtra.service.journal.entry.DeadGroup;

@Mapper
public interface DeadLetterMapper {

    /** Adds up the changes of each group of which there are several. */
    @Update("""
            with several as (select lane, outlet, cause from dead_count group by lane, outlet, cause having count(*) > 1),
            gone as (
              delete from dead_count c using several s
              where c.lane = s.lane and c.outlet = s.outlet and c.cause = s.cause
              returning c.lane, c.outlet, c.cause, c.letters)
            insert into dead_count select lane, outlet, cause, sum(letters) from gone group by lane, outlet, cause
            having sum(letters) != 0
            """)
    void addUp();

    /** The next of those that are meant, in the order of their ids. */
    @Select("""
            <script>
            select delivery from dead_letter
            <where>
              dropped_until is null
              <if test="c.lane != null">and lane = #{c.lane}</if>
              <if test="c.outlet != null">and outlet = #{c.outlet}</if>
              <if test="c.cause != null">and cause = #{c.cause}</if>
              <if test="c.device != null">and device = #{c.device}</if>
              <if test="c.deliveries != null">and delivery = any(#{ids}::uuid[])</if>
              <if test="after != null">and delivery > #{after}</if>
              and died &lt;= #{until}
            </where>
            order by delivery limit #{limit}
            </script>
            """)
    List<UUID> next(
            @Param("c") DeadChoice choice,
            @Param("ids") UUID[] ids,
            @Param("after") UUID after,
            @Param("until") Instant until,
            @Param("limit") int limit);

    @Select("""
            <script>
            select lane, outlet, cause, count(*) as count, min(died) as first, max(died) as last from dead_letter
            <where>
              dropped_until is null
              <if test="c.lane != null">and lane = #{c.lane}</if>
              <if test="c.outlet != null">and outlet = #{c.outlet}</if>
              <if test="c.cause != null">and cause = #{c.cause}</if>
              <if test="c.device != null">and device = #{c.device}</if>
              <if test="c.deliveries != null">and delivery = any(#{ids}::uuid[])</if>
            </where>
            group by lane, outlet, cause order by count(*) desc
            </script>
            """)
    List<DeadGroup> chosen(@Param("c") DeadChoice choice, @Param("ids") UUID[] ids);

    /**
     * Back among the owed, due at once and for a fresh stretch of patience: for this outlet, or for the one that the lane
     * has now. Says for which outlets. They have no order key: what came after them has gone by.
     */
    @Select("""
            with gone as (
              delete from dead_letter where delivery = any(#{ids}::uuid[]) and dropped_until is null returning *),
            back as (
              insert into owed (id, message, received, lane, outlet, device, attempts, due, frozen, reason,
                                correction, point, replay, late)
              select g.delivery, g.message, g.received, g.lane, coalesce(#{aim}, now.outlet, g.outlet), g.device,
                     g.attempts, #{at}, case when coalesce(#{aim}, now.outlet, g.outlet) = g.outlet then g.frozen end,
                     g.reason, g.correction, g.point, g.replay, g.late
              from gone g left join unnest(#{lanes}::text[], #{outlets}::text[]) as now(lane, outlet) on now.lane = g.lane
              returning outlet)
            select outlet from back
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> retry(
            @Param("ids") UUID[] ids,
            @Param("at") Instant at,
            @Param("aim") String aim,
            @Param("lanes") String[] lanes,
            @Param("outlets") String[] outlets);

    /** The content it goes with from now on. */
    @Update("update dead_letter set frozen = #{content} where delivery = #{id} and dropped_until is null")
    int edit(@Param("id") UUID id, @Param("content") byte[] content);

    @Select("select delivery, message, received, lane, outlet, frozen, point from dead_letter where delivery = #{id}")
    Optional<DeadContent> find(@Param("id") UUID id);

    /** They count as dropped from now on, and are taken out of the table once nobody can take that back any more. */
    @Update("""
            update dead_letter set dropped_until = #{until}, dropped_by = #{by}, job = #{job}
            where delivery = any(#{ids}::uuid[]) and dropped_until is null
            """)
    int drop(@Param("ids") UUID[] ids, @Param("until") Instant until, @Param("by") String by, @Param("job") UUID job);

    @Update("""
            update dead_letter set dropped_until = null, dropped_by = null, job = null
            where job = #{job} and dropped_until > #{now}
            """)
    int undrop(@Param("job") UUID job, @Param("now") Instant now);

    /** For good, those whose time to be taken back is over. */
    @Insert("""
            with gone as (delete from dead_letter where dropped_until <= #{now} returning *)
            insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts, reason, correction, point,
                                 replay)
            select delivery, message, received, lane, outlet, 'dropped', #{now}, attempts, 'dropped by ' || dropped_by,
                   correction, point, replay
            from gone
            """)
    int bury(@Param("now") Instant now);
}
