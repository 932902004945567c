package org.holtra.service.incidents;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface IncidentMapper {

    String COLUMNS = """
            id, number, title, outlet, device, since, until, by_whom, marked, findings::text as findings, look,
            acts::text as acts, before::text as before, acted::text as acted, mend
            """;

    @Insert("""
            insert into incident (id, title, outlet, device, since, until, by_whom, marked, findings)
            values (#{id}, #{title}, #{outlet}, #{device}, #{since}, #{until}, #{by}, #{marked}, #{findings}::jsonb)
            """)
    void mark(
            @Param("id") UUID id,
            @Param("title") String title,
            @Param("outlet") String outlet,
            @Param("device") String device,
            @Param("since") Instant since,
            @Param("until") Instant until,
            @Param("by") String by,
            @Param("marked") Instant marked,
            @Param("findings") String findings);

    @Select("select " + COLUMNS + """
             from incident where #{after}::bigint is null or number < #{after} order by number desc limit #{limit}
            """)
    List<Incident> list(@Param("after") Long after, @Param("limit") int limit);

    @Select("select " + COLUMNS + " from incident where number = #{number}")
    Optional<Incident> find(@Param("number") long number);

    @Select("select " + COLUMNS + " from incident where id = #{id}")
    Optional<Incident> byId(@Param("id") UUID id);

    @Update("update incident set look = #{look} where id = #{id}")
    void looking(@Param("id") UUID id, @Param("look") UUID look);

    @Update("update incident set findings = #{findings}::jsonb where id = #{id}")
    void found(@Param("id") UUID id, @Param("findings") String findings);

    @Update("update incident set mend = #{mend} where id = #{id}")
    void mending(@Param("id") UUID id, @Param("mend") UUID mend);

    /** Zero if it is being mended, or was. */
    @Update("""
            update incident set acts = #{acts}::jsonb, acted = #{acted}::jsonb, before = findings
            where id = #{id} and acts is null
            """)
    int decide(@Param("id") UUID id, @Param("acts") String acts, @Param("acted") String acted);

    @Update("update incident set acted = #{acted}::jsonb where id = #{id}")
    void acted(@Param("id") UUID id, @Param("acted") String acted);

    @Delete("delete from incident where number = #{number} and acts is null")
    int forget(@Param("number") long number);

    /** A dead delivery, not dropped. */
    record Dead(UUID delivery, UUID message, String outlet, String device, String cause) {}

    @Select("""
            select delivery, message, outlet, device, cause from dead_letter
            where message = any(#{messages}::uuid[]) and received between #{from} and #{to} and dropped_until is null
            """)
    List<Dead> dead(@Param("messages") UUID[] messages, @Param("from") Instant from, @Param("to") Instant to);

    /** What arrived, with the newest revision of the setup that it arrived under. */
    record Arrived(UUID message, String lane, String outlet, String point, int revision) {}

    @Select("""
            select message, lane, outlet, point, max(setup_revision) as revision from attempt
            where message = any(#{messages}::uuid[]) and received between #{from} and #{to}
              and verdict = 'delivered' and not trial
            group by message, lane, outlet, point
            """)
    List<Arrived> arrived(@Param("messages") UUID[] messages, @Param("from") Instant from, @Param("to") Instant to);

    /** When the newest message of a device came that lanes which keep order have delivered. */
    record Newest(String device, Instant received) {}

    @Select("""
            select m.device, max(m.received) as received from message m
            join outcome o on o.message = m.id and o.received = m.received and o.fate = 'delivered'
            where m.device = any(#{devices}::text[]) and m.received >= #{from} and o.lane = any(#{lanes}::text[])
            group by m.device
            """)
    List<Newest> newest(
            @Param("devices") String[] devices, @Param("from") Instant from, @Param("lanes") String[] lanes);

    @Select("""
            select count(*) from message
            where received >= #{from} and received < #{to}
              and (#{device}::text is null or device = #{device})
              and (#{inlets}::text[] is null or inlet = any(#{inlets}::text[]))
            """)
    long messages(
            @Param("device") String device,
            @Param("inlets") String[] inlets,
            @Param("from") Instant from,
            @Param("to") Instant to);

    /** What went well and what did not within one stretch of a history. */
    record Bucket(Instant at, long well, long ill) {}

    @Select("""
            select date_bin(make_interval(secs => #{seconds}), minute, #{from}) as at,
                   coalesce(sum(count) filter (where what = 'DELIVERED'), 0) as well,
                   coalesce(sum(count) filter (where what in ('FAILED', 'DEAD')), 0) as ill
            from tally
            where what in ('DELIVERED', 'FAILED', 'DEAD') and name = any(#{lanes}::text[])
              and minute >= #{from} and minute < #{to}
            group by 1 order by 1
            """)
    List<Bucket> ofLanes(
            @Param("lanes") String[] lanes,
            @Param("from") Instant from,
            @Param("to") Instant to,
            @Param("seconds") double seconds);

    @Select("""
            select date_bin(make_interval(secs => #{seconds}), m.received, #{from}) as at,
                   count(*) filter (where m.state = 'read' and m.lanes != '{}' and d.message is null) as well,
                   count(*) filter (where m.state in ('unreadable', 'unclaimed')
                                          or m.state = 'read' and (m.lanes = '{}' or d.message is not null)) as ill
            from message m
            left join (select distinct message from dead_letter where dropped_until is null) d on d.message = m.id
            where m.device = #{device} and m.received >= #{from} and m.received < #{to}
            group by 1 order by 1
            """)
    List<Bucket> ofDevice(
            @Param("device") String device,
            @Param("from") Instant from,
            @Param("to") Instant to,
            @Param("seconds") double seconds);

    /** Where devices' own numbers jump ahead: what lies between never came. */
    @Select("""
            with span as (
              select device, inlet, sequence, received, id from message
              where received >= #{from} and received < #{to} and sequence is not null and state = 'read'
                and (#{device}::text is null or device = #{device})
                and (#{inlets}::text[] is null or inlet = any(#{inlets}::text[]))),
            jump as (
              select device, inlet, before + 1 as first, sequence - 1 as last, received as at, id::text as message from (
                select *, lag(sequence) over (partition by device, inlet order by received, id) as before from span) s
              where before is not null and sequence > before + 1),
            counted as (
              select j.*, (select count(distinct s.sequence) from span s
                           where s.device = j.device and s.inlet = j.inlet and s.sequence between j.first and j.last) as late
              from jump j)
            select * from counted where late <= last - first order by at, device limit 200
            """)
    List<Findings.Missing> missing(
            @Param("device") String device,
            @Param("inlets") String[] inlets,
            @Param("from") Instant from,
            @Param("to") Instant to);
}
