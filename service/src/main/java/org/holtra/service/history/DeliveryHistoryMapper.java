package org.holtra.service.history;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.service.journal.entry.AttemptRow;

/** What became of deliveries: their states, attempts and outcomes, and dead letters. */
@Mapper
interface DeliveryHistoryMapper {

    @Select("""
            select message, lane, outlet, 'waiting' as state, attempts, due as at, reason, point, replay, null::uuid as into from owed where message = any(#{ids})
            union all
            select message, lane, outlet, case when dropped_until is null then 'dead' else 'dropped' end, attempts, died,
                   case when dropped_until is null then reason else 'dropped by ' || dropped_by end, point, replay, null
            from dead_letter where message = any(#{ids})
            union all
            select message, lane, '', 'remembered', 0, received, 'in the memory of the lane, until it is known what becomes of it',
                   null, null, null
            from remembered where message = any(#{ids}) and lane not like 'lookout/%'
            union all
            select message, lane, outlet, fate, attempts, at, reason, point, replay, into_message from outcome
            where message = any(#{ids}) and received between #{from} and #{to}
            """)
    List<LaneState> states(@Param("ids") UUID[] ids, @Param("from") Instant from, @Param("to") Instant to);

    @Select("""
            select delivery, message, received, lane, outlet, number, at, micros, verdict, reason, code, next_try,
                   setup_revision, request, request_body, answer, point, trial, replay
            from attempt where received = #{received} and message = #{message} order by at, number
            """)
    List<AttemptRow> attempts(@Param("received") Instant received, @Param("message") UUID message);

    @Select("select message::text from outcome where into_message = #{id} order by received, message limit 100")
    List<String> mergedInto(@Param("id") UUID id);

    @Select("""
            <script>
            select d.delivery, d.message, d.lane, d.outlet, d.device, d.attempts, d.died, d.cause, d.reason, m.simulated
            from dead_letter d left join message m on m.received = d.received and m.id = d.message
            <where>
              d.dropped_until is null
              <if test="q.lane != null">and d.lane = #{q.lane}</if>
              <if test="q.outlet != null">and d.outlet = #{q.outlet}</if>
              <if test="q.cause != null">and d.cause = #{q.cause}</if>
              <if test="q.before != null">and (d.died, d.delivery) &lt; (#{q.before}, #{q.delivery})</if>
            </where>
            order by d.died desc, d.delivery desc limit #{q.limit}
            </script>
            """)
    List<DeadLetter> deadLetters(@Param("q") DeadQuery query);
}
