package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.Set;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
public interface OutcomeMapper {

    @Insert("""
            insert into attempt (delivery, message, received, lane, outlet, number, at, micros, verdict, reason, code,
                                 next_try, setup_revision, request, request_body, answer, point, trial, replay)
            select * from unnest(#{c.delivery}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                                 #{c.outlet}::text[], #{c.number}::int[], #{c.at}::timestamptz[], #{c.micros}::int8[],
                                 #{c.verdict}::text[], #{c.reason}::text[], #{c.code}::text[],
                                 #{c.nextTry}::timestamptz[], #{c.setupRevision}::int[], #{c.request}::bytea[],
                                 #{c.requestBody}::bytea[], #{c.answer}::bytea[], #{c.point}::text[], #{c.trial}::bool[],
                                 #{c.replay}::text[])
            """)
    void insertAttempts(@Param("c") AttemptColumns columns);

    record Numbered(UUID delivery, int number) {}

    /** Which attempts of these are written already. */
    @Select("""
            select delivery, number from attempt
            where message = any(#{messages}::uuid[]) and delivery = any(#{deliveries}::uuid[]) and not trial
            """)
    Set<Numbered> numbers(@Param("messages") UUID[] messages, @Param("deliveries") UUID[] deliveries);

    @Insert("""
            insert into outcome (delivery, message, received, lane, outlet, attempts, correction, point, replay, fate, at)
            select u.*, 'delivered', #{at}
            from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                        #{c.outlet}::text[], #{c.attempts}::int[], #{c.correction}::int[], #{c.point}::text[], #{c.replay}::text[]) as u
            """)
    void insertDelivered(@Param("c") OwedColumns columns, @Param("at") Instant at);

    @Insert("""
            insert into dead_letter (delivery, message, received, lane, outlet, device, attempts, died, frozen, reason, cause,
                                     correction, point, replay, late)
            select u.id, u.message, u.received, u.lane, u.outlet, u.device, u.attempts, #{at}, u.frozen, u.reason, u.cause,
                   u.correction, u.point, u.replay, u.late
            from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                        #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.frozen}::bytea[],
                        #{c.reason}::text[], #{causes}::text[], #{c.correction}::int[], #{c.point}::text[],
                        #{c.replay}::text[], #{c.late}::bool[])
              as u(id, message, received, lane, outlet, device, attempts, frozen, reason, cause, correction, point, replay,
                   late)
            """)
    void insertDead(@Param("c") OwedColumns columns, @Param("causes") String[] causes, @Param("at") Instant at);

    /** What became of messages in the memory of lanes. */
    @Insert("""
            insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts, reason, correction, into_message)
            select gen_random_uuid(), message, received, lane, '', fate, #{at}, 0, reason, 0, into_message
            from unnest(#{messages}::uuid[], #{received}::timestamptz[], #{lanes}::text[], #{fates}::text[], #{reasons}::text[],
                        #{into}::uuid[]) as u(message, received, lane, fate, reason, into_message)
            """)
    void insertRemembered(
            @Param("messages") UUID[] messages,
            @Param("received") Instant[] received,
            @Param("lanes") String[] lanes,
            @Param("fates") String[] fates,
            @Param("reasons") String[] reasons,
            @Param("into") UUID[] into,
            @Param("at") Instant at);
}
