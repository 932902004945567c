package org.holtra.service.memory;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Arg;
import org.apache.ibatis.annotations.ConstructorArgs;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.ResultMap;
import org.apache.ibatis.annotations.Results;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** What lanes remember of keys. */
@Mapper
interface MemoryMapper {

    /**
     * Keys of which something new came or something is due, of these lanes. Until the end of the transaction they are this
     * node's; those that another node has in hand are left out, and those that are set aside.
     */
    @Results(id = "row")
    @ConstructorArgs({
        @Arg(column = "lane", javaType = String.class),
        @Arg(column = "key", javaType = String.class),
        @Arg(column = "zone", javaType = String.class),
        @Arg(column = "operation", javaType = String.class),
        @Arg(column = "state", javaType = String.class),
        @Arg(column = "device", javaType = String.class),
        @Arg(column = "simulated", javaType = boolean.class),
        @Arg(column = "due", javaType = Instant.class)
    })
    @Select("""
            with wanted as (
              (select distinct on (lane, key) lane, key, zone from remembered
               where not seen and lane = any(#{lanes}::text[])
                 and (lane, key) not in (select * from unnest(#{asideLanes}::text[], #{asideKeys}::text[]))
               order by lane, key limit #{limit})
              union all
              (select lane, key, zone from memory where due <= #{now} and lane = any(#{lanes}::text[])
                 and (lane, key) not in (select * from unnest(#{asideLanes}::text[], #{asideKeys}::text[]))
               order by due limit #{limit})),
            fresh as (
              insert into memory (lane, key, zone, operation, state, heard)
              select distinct on (lane, key) lane, key, zone, '', '{}', #{now}::timestamptz from wanted order by lane, key
              on conflict do nothing returning lane, key, zone, operation, state::text as state, device, simulated, due)
            select * from fresh
            union all
            select m.lane, m.key, m.zone, m.operation, m.state::text, m.device, m.simulated, m.due
            from (select m.* from memory m where (m.lane, m.key) in (select lane, key from wanted)
                  for update skip locked) m
            where not exists (select 1 from fresh f where f.lane = m.lane and f.key = m.key)
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<RememberedKey> claim(
            @Param("lanes") String[] lanes,
            @Param("asideLanes") String[] asideLanes,
            @Param("asideKeys") String[] asideKeys,
            @Param("now") Instant now,
            @Param("limit") int limit);

    /** What is remembered of a lane's keys, and is being made of them; until the end of the transaction this node's. */
    @Select("""
            select lane, key, zone, operation, state::text as state, device, simulated, due from memory
            where lane = #{lane} and making is not null order by key limit #{limit} for update skip locked
            """)
    @ResultMap("row")
    List<RememberedKey> making(@Param("lane") String lane, @Param("limit") int limit);

    /** Nothing is being made of these keys any more. */
    @Delete("delete from memory where lane = #{lane} and key = any(#{keys}::text[])")
    void forgetKeys(@Param("lane") String lane, @Param("keys") String[] keys);

    /** What came to these keys and was not seen yet. */
    @Results(id = "came")
    @ConstructorArgs({
        @Arg(column = "lane", javaType = String.class),
        @Arg(column = "key", javaType = String.class),
        @Arg(column = "zone", javaType = String.class),
        @Arg(column = "message", javaType = UUID.class)
    })
    @Select("""
            select r.lane, r.key, r.zone, r.message
            from unnest(#{lanes}::text[], #{keys}::text[]) as k(lane, key)
            join remembered r on r.lane = k.lane and r.key = k.key and not r.seen
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Came> unseen(@Param("lanes") String[] lanes, @Param("keys") String[] keys);

    /** All that is in the memory of a key, seen or not. */
    @Select("select lane, key, zone, message from remembered where lane = #{lane} and key = #{key}")
    @ResultMap("came")
    List<Came> all(@Param("lane") String lane, @Param("key") String key);

    @Update("""
            update memory m set zone = u.zone, operation = u.operation, state = u.state::jsonb, due = u.due,
                                making = u.making, device = u.device, simulated = u.simulated,
                                heard = case when u.came then #{now} else m.heard end
            from unnest(#{lanes}::text[], #{keys}::text[], #{zones}::text[], #{operations}::text[], #{states}::text[],
                        #{dues}::timestamptz[], #{making}::uuid[], #{came}::bool[], #{devices}::text[],
                        #{simulated}::bool[])
              as u(lane, key, zone, operation, state, due, making, came, device, simulated)
            where m.lane = u.lane and m.key = u.key
            """)
    void write(
            @Param("lanes") String[] lanes,
            @Param("keys") String[] keys,
            @Param("zones") String[] zones,
            @Param("operations") String[] operations,
            @Param("states") String[] states,
            @Param("dues") Instant[] dues,
            @Param("making") UUID[] making,
            @Param("came") Boolean[] came,
            @Param("devices") String[] devices,
            @Param("simulated") Boolean[] simulated,
            @Param("now") Instant now);

    /** What remembers anything, and is none of these lanes. */
    @Select(
            "select distinct lane from (select lane from remembered union all select lane from memory) l where lane != all(#{lanes}::text[])")
    List<String> othersThan(@Param("lanes") String[] lanes);

    /** All that a lane has in its memory, in the order it came, at most so many. */
    @Select(
            "select message from remembered where lane = #{lane} order by received, message limit #{limit} for update skip locked")
    List<UUID> left(@Param("lane") String lane, @Param("limit") int limit);

    @Delete(
            "delete from memory where lane = #{lane} and not exists (select 1 from remembered r where r.lane = #{lane})")
    void forgetLane(@Param("lane") String lane);

    /** Has what waits in these lanes looked at, whenever it was due. */
    @Update("update memory set due = #{now} where lane = any(#{lanes}::text[]) and due is not null")
    void lookAgain(@Param("lanes") String[] lanes, @Param("now") Instant now);

    /** Keys of which nothing came for long. */
    @Delete("delete from memory where lane = #{lane} and due is null and heard < #{before}")
    int forget(@Param("lane") String lane, @Param("before") Instant before);

    @Select("select count(*) from memory where lane = #{lane}")
    long count(@Param("lane") String lane);

    /** So many keys, those of which nothing came longest; but none of which something is still to come. */
    @Delete("""
            delete from memory m using (
              select key from memory where lane = #{lane} and due is null order by heard limit #{most}) old
            where m.lane = #{lane} and m.key = old.key and m.due is null
            """)
    int forgetOldest(@Param("lane") String lane, @Param("most") long most);
}
