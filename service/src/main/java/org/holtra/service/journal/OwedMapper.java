package org.holtra.service.journal;

import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface OwedMapper {

    /** @param owners the node that dispatches it from memory, or null where memory has no room */
    @Insert("""
            insert into owed (id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason,
                              correction, point, owner)
            select * from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                                 #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.due}::timestamptz[],
                                 #{c.givesUp}::timestamptz[], #{c.frozen}::bytea[], #{c.reason}::text[],
                                 #{c.correction}::int[], #{c.point}::text[], #{owners}::uuid[])
            """)
    void insert(@Param("c") OwedColumns columns, @Param("owners") UUID[] owners);

    /** Removes rows that this node still owns; what was taken over or dropped meanwhile is not among those returned. */
    @Select("delete from owed where id = any(#{ids}::uuid[]) and owner = #{node} returning id")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> settle(@Param("ids") UUID[] ids, @Param("node") UUID node);

    /** The rows stay, for later. The redundant {@code = any} keeps the plan on the primary key, however full the table. */
    @Update("""
            update owed o
            set attempts = u.attempts, due = u.due, gives_up = u.gives_up, frozen = u.frozen, reason = u.reason, owner = null
            from unnest(#{c.id}::uuid[], #{c.attempts}::int[], #{c.due}::timestamptz[], #{c.givesUp}::timestamptz[],
                        #{c.frozen}::bytea[], #{c.reason}::text[]) as u(id, attempts, due, gives_up, frozen, reason)
            where o.id = any(#{c.id}::uuid[]) and o.id = u.id and o.owner = #{node}
            """)
    void postpone(@Param("c") OwedColumns columns, @Param("node") UUID node);

    /** Claims what is due for an outlet, oldest first, without waiting for what another node is claiming. */
    @Select("""
            with claimed as (
              update owed set owner = #{node}
              where id in (select id from owed where outlet = #{outlet} and owner is null and due <= #{until}
                             and lane != all(#{closed}::text[])
                           order by due limit #{limit} for update skip locked)
              returning id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason,
                        correction, point)
            select c.id as owed_id, c.lane, c.outlet, c.device as owed_device, c.attempts, c.due, c.gives_up, c.frozen,
                   c.reason as owed_reason, c.correction, c.point, m.id, m.inlet, m.state, m.reason, m.device, m.device_revision, m.event_time,
                   m.sort, m.simulated, m.setup_revision, array_to_string(m.lanes, ',') as lanes, m.sequence, m.copy_key,
                   m.copy_of, m.arrival, m.body
            from claimed c join message m on m.received = c.received and m.id = c.message
            order by c.due, c.id
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<ClaimedRow> claim(
            @Param("node") UUID node,
            @Param("outlet") String outlet,
            @Param("until") Instant until,
            @Param("limit") int limit,
            @Param("closed") String[] closed);

    @Select("""
            select min(due) from owed where outlet = #{outlet} and owner is null and lane != all(#{closed}::text[])
            """)
    Instant nextDue(@Param("outlet") String outlet, @Param("closed") String[] closed);

    /** What a lane owes is given up later by as long as it was closed. */
    @Update("""
            update owed set gives_up = gives_up + (#{now}::timestamptz - #{since}::timestamptz)
            where lane = #{lane} and gives_up is not null
            """)
    int prolong(@Param("lane") String lane, @Param("since") Instant since, @Param("now") Instant now);

    /** Sets free what is owned by nodes whose lease has run out, and says for which outlets. */
    @Select("""
            with freed as (
              update owed set owner = null
              where owner is not null and owner != all(array(select id from node where lease_until > #{now}))
              returning outlet)
            select distinct outlet from freed
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> freeAbandoned(@Param("now") Instant now);

    @Select("""
            select lane, outlet, count(*) as waiting, min(received) as oldest,
                   (array_agg(reason order by received) filter (where reason is not null))[1] as reason,
                   min(due) filter (where owner is null) as next_try
            from owed group by lane, outlet
            """)
    List<LaneDebt> debts();

    @Select("select count(*) from owed where lane = #{lane}")
    long countOfLane(@Param("lane") String lane);

    /** What a lane owes is dropped, and its outcome says so. */
    @Insert("""
            with gone as (delete from owed where lane = #{lane} returning *)
            insert into outcome (delivery, message, received, lane, outlet, fate, at, attempts, reason, correction, point)
            select id, message, received, lane, outlet, 'dropped', #{at}, attempts, #{reason}, correction, point from gone
            """)
    int dropLane(@Param("lane") String lane, @Param("at") Instant at, @Param("reason") String reason);

    @Update("update owed set outlet = #{outlet}, frozen = null, due = #{at}, owner = null where lane = #{lane}")
    int reaimLane(@Param("lane") String lane, @Param("outlet") String outlet, @Param("at") Instant at);

    @Insert("insert into node (id, started, lease_until) values (#{id}, #{started}, #{until})")
    void addNode(@Param("id") UUID id, @Param("started") Instant started, @Param("until") Instant until);

    @Update("update node set lease_until = #{until} where id = #{id}")
    int renewLease(@Param("id") UUID id, @Param("until") Instant until);

    @Update("delete from node where id = #{id} or lease_until < #{longAgo}")
    void removeNode(@Param("id") UUID id, @Param("longAgo") Instant longAgo);
}
