package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.journal.entry.LaneDebt;

/** What lanes owe, taken together. */
@Mapper
public interface LaneDebtMapper {

    /** What a lane owes is given up later by as long as it was closed. */
    @Update("""
            update owed set gives_up = gives_up + (#{now}::timestamptz - #{since}::timestamptz)
            where lane = #{lane} and gives_up is not null
            """)
    int prolong(@Param("lane") String lane, @Param("since") Instant since, @Param("now") Instant now);

    /** From now on what a lane owes keeps the order of devices, or none. */
    @Update("""
            update owed set order_key = case when #{ordered} then device end
            where lane = #{lane} and order_key is distinct from case when #{ordered} then device end
            """)
    int order(@Param("lane") String lane, @Param("ordered") boolean ordered);

    /** Costs as much for a long backlog as for a short one. */
    @Select("""
            select b.lane, b.outlet, b.messages as waiting, o.received as oldest, o.reason, o.due as next_try
            from (select lane, outlet, sum(messages)::int8 as messages from backlog group by lane, outlet) b
            cross join lateral (
              select received, reason, case when owner is null then due end as due from owed
              where lane = b.lane and outlet = b.outlet order by message limit 1) o
            where b.messages > 0
            """)
    List<LaneDebt> debts();

    /** Adds up the changes of each lane of which there are several. */
    @Update("""
            with several as (select lane, outlet from backlog group by lane, outlet having count(*) > 1),
            gone as (
              delete from backlog b using several s where b.lane = s.lane and b.outlet = s.outlet
              returning b.lane, b.outlet, b.messages)
            insert into backlog select lane, outlet, sum(messages) from gone group by lane, outlet having sum(messages) != 0
            """)
    void addUpBacklog();

    @Select("select coalesce(sum(messages), 0) from backlog where lane = #{lane}")
    long countOfLane(@Param("lane") String lane);

    /** What a lane owes is dropped, and its outcome says so. */
    @Insert("""
            with gone as (delete from owed where lane = #{lane} returning *)
            insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts, reason, correction, point, replay)
            select id, message, received, lane, outlet, 'dropped', #{at}, attempts, #{reason}, correction, point, replay from gone
            """)
    int dropLane(@Param("lane") String lane, @Param("at") Instant at, @Param("reason") String reason);

    @Update("update owed set outlet = #{outlet}, frozen = null, due = #{at}, owner = null where lane = #{lane}")
    int reaimLane(@Param("lane") String lane, @Param("outlet") String outlet, @Param("at") Instant at);

    /** Dead letters by what they died of. */
    @Select("""
            select g.lane, g.outlet, g.cause, g.count, first.died as first, last.died as last
            from (select lane, outlet, cause, sum(letters)::int8 as count from dead_count group by lane, outlet, cause
                  having sum(letters) > 0) g
            left join lateral (select died from dead_letter where lane = g.lane and outlet = g.outlet and cause = g.cause
                               and dropped_until is null order by died limit 1) first on true
            left join lateral (select died from dead_letter where lane = g.lane and outlet = g.outlet and cause = g.cause
                               and dropped_until is null order by died desc limit 1) last on true
            order by g.count desc, g.lane, g.cause
            """)
    List<DeadGroup> groups();
}
