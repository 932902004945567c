package org.holtra.service.journal.sql;

import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.apache.ibatis.annotations.Arg;
import org.apache.ibatis.annotations.ConstructorArgs;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.ResultMap;
import org.apache.ibatis.annotations.Results;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.service.journal.entry.HeldDelivery;

@Mapper
public interface OwedMapper {

    String CLAIMED = """
            id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason, correction, point, order_key,
            sequence, replay, late
            """;

    String ROWS = """
            insert into owed (id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason,
                              correction, point, order_key, replay, owner)
            """;

    String FROM_COLUMNS = """
            from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                        #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.due}::timestamptz[],
                        #{c.givesUp}::timestamptz[], #{c.frozen}::bytea[], #{c.reason}::text[], #{c.correction}::int[],
                        #{c.point}::text[], #{c.orderKey}::text[], #{c.replay}::text[], #{owners}::uuid[])
            """;

    /** @param owners the node that dispatches it from memory, or null where memory has no room */
    @Insert(ROWS + "select * " + FROM_COLUMNS)
    void insert(@Param("c") OwedColumns columns, @Param("owners") UUID[] owners);

    /**
     * Keeps the order of commits: until the end of the transaction no other node gives out sequence numbers, so that a higher
     * one is never seen before a lower one.
     */
    @Select("select true from (select pg_advisory_xact_lock(20260)) locked")
    @Options(flushCache = FlushCachePolicy.TRUE)
    boolean lockOrder();

    /**
     * The same as {@link #insert} after {@link #lockOrder}, but where other nodes are, or were since this one knew of
     * none, deliveries with an order key are owned by nobody. Says which those are.
     *
     * @param joins how many nodes had joined, left or been given up when it was decided what this node owns
     */
    @Select("""
            with kept as (
            """ + ROWS + """
              select u.id, u.message, u.received, u.lane, u.outlet, u.device, u.attempts, u.due, u.gives_up, u.frozen,
                     u.reason, u.correction, u.point, u.order_key, u.replay, case when u.order_key is null or a.alone then u.owner end
              from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                          #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.due}::timestamptz[],
                          #{c.givesUp}::timestamptz[], #{c.frozen}::bytea[], #{c.reason}::text[], #{c.correction}::int[],
                          #{c.point}::text[], #{c.orderKey}::text[], #{c.replay}::text[], #{owners}::uuid[]) with ordinality
                     as u(id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason, correction,
                          point, order_key, replay, owner, n),
                   (select (select last_value from node_joins) = #{joins}
                           and not exists (select 1 from node where id != #{node}) as alone) a
              order by u.n
              returning id, owner, order_key)
            select id from kept where owner is null and order_key is not null
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> insertOrdered(
            @Param("c") OwedColumns columns,
            @Param("owners") UUID[] owners,
            @Param("node") UUID node,
            @Param("joins") long joins);

    /**
     * Removes rows that belong to whom they are said to, or that nobody has taken over yet; what another took over, or a
     * person dropped meanwhile, is not among those returned. The redundant {@code = any} here and below keeps the plan on
     * the primary key, however full the table.
     */
    @Select("""
            delete from owed o using unnest(#{ids}::uuid[], #{owners}::uuid[]) as u(id, owner)
            where o.id = any(#{ids}::uuid[]) and o.id = u.id and (o.owner = u.owner or o.owner is null)
            returning o.id
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> settle(@Param("ids") UUID[] ids, @Param("owners") UUID[] owners);

    /** Apart from the rest, since it is rare; in the transaction that writes them. */
    @Update("update owed set late = true where id = any(#{ids}::uuid[])")
    void markLate(@Param("ids") UUID[] ids);

    /** The rows stay, for later. */
    @Update("""
            update owed o
            set attempts = u.attempts, due = u.due, gives_up = u.gives_up, frozen = u.frozen, reason = u.reason, owner = null
            from unnest(#{c.id}::uuid[], #{c.attempts}::int[], #{c.due}::timestamptz[], #{c.givesUp}::timestamptz[],
                        #{c.frozen}::bytea[], #{c.reason}::text[], #{owners}::uuid[])
                   as u(id, attempts, due, gives_up, frozen, reason, owner)
            where o.id = any(#{c.id}::uuid[]) and o.id = u.id
              and (o.owner = u.owner or o.owner is null)
            """)
    void postpone(@Param("c") OwedColumns columns, @Param("owners") UUID[] owners);

    /** Claims what is due for an outlet, oldest first, without waiting for what another node is claiming. */
    @Results(id = "claimed")
    @ConstructorArgs({
        @Arg(column = "id", javaType = UUID.class),
        @Arg(column = "message", javaType = UUID.class),
        @Arg(column = "received", javaType = Instant.class),
        @Arg(column = "lane", javaType = String.class),
        @Arg(column = "outlet", javaType = String.class),
        @Arg(column = "device", javaType = String.class),
        @Arg(column = "attempts", javaType = int.class),
        @Arg(column = "due", javaType = Instant.class),
        @Arg(column = "gives_up", javaType = Instant.class),
        @Arg(column = "frozen", javaType = byte[].class),
        @Arg(column = "reason", javaType = String.class),
        @Arg(column = "correction", javaType = int.class),
        @Arg(column = "point", javaType = String.class),
        @Arg(column = "order_key", javaType = String.class),
        @Arg(column = "sequence", javaType = long.class),
        @Arg(column = "replay", javaType = String.class),
        @Arg(column = "late", javaType = boolean.class)
    })
    @Select("""
            with claimed as (
              update owed set owner = #{node}, claim = #{claim}
              where id in (select id from owed where outlet = #{outlet} and owner is null and order_key is null and due >= #{since} and due <= #{until}
                             and lane != all(#{closed}::text[])
                           order by due limit #{limit} for update skip locked)
              returning
            """ + CLAIMED + """
            )
            select * from claimed order by due, id
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<ClaimedRow> claim(
            @Param("node") UUID node,
            @Param("claim") UUID claim,
            @Param("outlet") String outlet,
            @Param("since") Instant since,
            @Param("until") Instant until,
            @Param("limit") int limit,
            @Param("closed") String[] closed);

    @Select("""
            select min(due) from owed
            where outlet = #{outlet} and owner is null and order_key is null and lane != all(#{closed}::text[])
            """)
    Instant nextDue(@Param("outlet") String outlet, @Param("closed") String[] closed);

    /**
     * The first delivery of each order key of a lane, by order key, after one.
     *
     * @param owned whether a node has it in hand
     */
    record Head(String orderKey, UUID id, Instant due, boolean owned) {}

    /** Goes from key to key in the index, so that what waits behind the first of a key costs nothing. */
    @Select("""
            with recursive head as (
              (select order_key, sequence, id, due, owner from owed where lane = #{lane} and order_key > #{after}
               order by order_key, sequence limit 1)
              union all
              select n.* from head h cross join lateral (
                select order_key, sequence, id, due, owner from owed where lane = #{lane} and order_key > h.order_key
                order by order_key, sequence limit 1) n)
            select order_key, id, due, owner is not null as owned from head limit #{limit}
            """)
    List<Head> heads(@Param("lane") String lane, @Param("after") String after, @Param("limit") int limit);

    /**
     * Claims these first deliveries, where they still are free, each with those that come next under its order key.
     *
     * @param each how many of an order key at most
     */
    @Select("""
            with head as (
              select id, lane, order_key, sequence from owed where id = any(#{heads}::uuid[]) and owner is null
              for update skip locked),
            chosen as (
              select n.id from head h cross join lateral (
                select f.id, bool_and(f.owner is null) over (order by f.sequence) as free from (
                  select id, owner, sequence from owed
                  where lane = h.lane and order_key = h.order_key and sequence >= h.sequence order by sequence limit #{each}) f) n
              where n.free),
            claimed as (
              update owed set owner = #{node}, claim = #{claim} where id = any(array(select id from chosen))
              returning
            """ + CLAIMED + """
            )
            select * from claimed order by order_key, sequence
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    @ResultMap("claimed")
    List<ClaimedRow> claimOrdered(
            @Param("node") UUID node,
            @Param("claim") UUID claim,
            @Param("heads") UUID[] heads,
            @Param("each") int each);

    /** Of these order keys of a lane, those under which something comes after these sequence numbers. */
    @Select("""
            select l.order_key from unnest(#{orderKeys}::text[], #{sequences}::int8[]) as l(order_key, sequence)
            where exists (select 1 from owed o where o.lane = #{lane} and o.order_key = l.order_key and o.sequence > l.sequence)
            """)
    Set<String> longer(
            @Param("lane") String lane, @Param("orderKeys") String[] orderKeys, @Param("sequences") Long[] sequences);

    @Select("select true")
    @Options(flushCache = FlushCachePolicy.TRUE)
    boolean answers();

    /** What of these is the node's is nobody's from now on. Says which of all of them are there. */
    @Select("""
            with freed as (
              update owed set owner = null, due = least(due, #{now}) where id = any(#{ids}::uuid[]) and owner = #{node}
              returning id)
            select id from owed where id = any(#{ids}::uuid[])
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> free(@Param("ids") UUID[] ids, @Param("node") UUID node, @Param("now") Instant now);

    /** What a node has in its hands, of the oldest so many of each lane. */
    @Select("""
            select o.id, o.outlet
            from (select lane, outlet from backlog group by lane, outlet having sum(messages) > 0) b
            cross join lateral (
              select id, outlet, owner from owed where lane = b.lane and outlet = b.outlet order by message limit #{each}) o
            where o.owner = #{node}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<HeldDelivery> heldBy(@Param("node") UUID node, @Param("each") int each);

    /** @param claim the look that claimed it */
    record Freed(UUID claim, String outlet) {}

    /** What these looks claimed is nobody's, unless another has claimed it since. Says for which outlets. */
    @Select("""
            with freed as (
              update owed set owner = null where claim = any(#{claims}::uuid[]) and owner is not null
              returning claim, outlet)
            select distinct claim, outlet from freed
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Freed> freeClaims(@Param("claims") UUID[] claims);

    /** What waits for its device to be tried again need not; at most so long from now, which is as long as devices are held. */
    @Update("""
            update owed set due = #{now}
            where outlet = #{outlet} and owner is null and due > #{now} and due <= #{until}
              and device = any(#{devices}::text[])
            """)
    int bringForward(
            @Param("outlet") String outlet,
            @Param("devices") String[] devices,
            @Param("now") Instant now,
            @Param("until") Instant until);

    /** What these nodes own is nobody's and due, since its owner was about to try it. Says for which outlets. */
    @Select("""
            with freed as (
              update owed set owner = null, due = least(due, clock_timestamp()) where owner = any(#{nodes}::uuid[])
              returning outlet)
            select distinct outlet from freed
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> freeOf(@Param("nodes") UUID[] nodes);

    /** What belongs to a node that is gone is nobody's and due. Says for which outlets. */
    @Select("""
            with freed as (
              update owed set owner = null, due = least(due, clock_timestamp())
              where owner is not null and not exists (select 1 from node where node.id = owed.owner)
              returning outlet)
            select distinct outlet from freed
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> freeOrphans();
}
