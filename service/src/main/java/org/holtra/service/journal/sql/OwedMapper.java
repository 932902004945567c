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
            id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason, correction, point, line,
            place, replay, late
            """;

    String ROWS = """
            insert into owed (id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason,
                              correction, point, line, replay, owner)
            """;

    String FROM_COLUMNS = """
            from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                        #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.due}::timestamptz[],
                        #{c.givesUp}::timestamptz[], #{c.frozen}::bytea[], #{c.reason}::text[], #{c.correction}::int[],
                        #{c.point}::text[], #{c.line}::text[], #{c.replay}::text[], #{owners}::uuid[])
            """;

    /** @param owners the node that dispatches it from memory, or null where memory has no room */
    @Insert(ROWS + "select * " + FROM_COLUMNS)
    void insert(@Param("c") OwedColumns columns, @Param("owners") UUID[] owners);

    /**
     * Keeps the order of commits: until the end of the transaction no other node gives places in a line, so that a higher
     * place is never seen before a lower one.
     */
    @Select("select true from (select pg_advisory_xact_lock(20260)) locked")
    @Options(flushCache = FlushCachePolicy.TRUE)
    boolean lockOrder();

    /**
     * The same as {@link #insert} after {@link #lockOrder}, but where other nodes are, or were since this one knew of
     * none, what stands in a line is owned by nobody. Says which those are.
     *
     * @param joins how many nodes had joined when it was decided what this node owns
     */
    @Select("""
            with kept as (
            """ + ROWS + """
              select u.id, u.message, u.received, u.lane, u.outlet, u.device, u.attempts, u.due, u.gives_up, u.frozen,
                     u.reason, u.correction, u.point, u.line, u.replay, case when u.line is null or a.alone then u.owner end
              from unnest(#{c.id}::uuid[], #{c.message}::uuid[], #{c.received}::timestamptz[], #{c.lane}::text[],
                          #{c.outlet}::text[], #{c.device}::text[], #{c.attempts}::int[], #{c.due}::timestamptz[],
                          #{c.givesUp}::timestamptz[], #{c.frozen}::bytea[], #{c.reason}::text[], #{c.correction}::int[],
                          #{c.point}::text[], #{c.line}::text[], #{c.replay}::text[], #{owners}::uuid[]) with ordinality
                     as u(id, message, received, lane, outlet, device, attempts, due, gives_up, frozen, reason, correction,
                          point, line, replay, owner, n),
                   (select (select last_value from node_joins) = #{joins}
                           and not exists (select 1 from node where id != #{node}) as alone) a
              order by u.n
              returning id, owner, line)
            select id from kept where owner is null and line is not null
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> insertInLines(
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
        @Arg(column = "line", javaType = String.class),
        @Arg(column = "place", javaType = long.class),
        @Arg(column = "replay", javaType = String.class),
        @Arg(column = "late", javaType = boolean.class)
    })
    @Select("""
            with claimed as (
              update owed set owner = #{node}, claim = #{claim}
              where id in (select id from owed where outlet = #{outlet} and owner is null and line is null and due >= #{since} and due <= #{until}
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
            where outlet = #{outlet} and owner is null and line is null and lane != all(#{closed}::text[])
            """)
    Instant nextDue(@Param("outlet") String outlet, @Param("closed") String[] closed);

    /**
     * The first of each line of a lane, in the order of the lines, after one.
     *
     * @param owned whether a node has it in hand
     */
    record Head(String line, UUID id, Instant due, boolean owned) {}

    /** Goes from line to line in the index, so that what stands behind the first of a line costs nothing. */
    @Select("""
            with recursive head as (
              (select line, place, id, due, owner from owed where lane = #{lane} and line > #{after}
               order by line, place limit 1)
              union all
              select n.* from head h cross join lateral (
                select line, place, id, due, owner from owed where lane = #{lane} and line > h.line
                order by line, place limit 1) n)
            select line, id, due, owner is not null as owned from head limit #{limit}
            """)
    List<Head> heads(@Param("lane") String lane, @Param("after") String after, @Param("limit") int limit);

    /**
     * Claims these heads of lines, where they still are free, each with those that stand next in its line.
     *
     * @param each how many of a line at most
     */
    @Select("""
            with head as (
              select id, lane, line, place from owed where id = any(#{heads}::uuid[]) and owner is null
              for update skip locked),
            chosen as (
              select n.id from head h cross join lateral (
                select f.id, bool_and(f.owner is null) over (order by f.place) as free from (
                  select id, owner, place from owed
                  where lane = h.lane and line = h.line and place >= h.place order by place limit #{each}) f) n
              where n.free),
            claimed as (
              update owed set owner = #{node}, claim = #{claim} where id = any(array(select id from chosen))
              returning
            """ + CLAIMED + """
            )
            select * from claimed order by line, place
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    @ResultMap("claimed")
    List<ClaimedRow> claimLines(
            @Param("node") UUID node,
            @Param("claim") UUID claim,
            @Param("heads") UUID[] heads,
            @Param("each") int each);

    /** Of these lines of a lane, those in which something stands behind these places. */
    @Select("""
            select l.line from unnest(#{lines}::text[], #{places}::int8[]) as l(line, place)
            where exists (select 1 from owed o where o.lane = #{lane} and o.line = l.line and o.place > l.place)
            """)
    Set<String> longer(@Param("lane") String lane, @Param("lines") String[] lines, @Param("places") Long[] places);

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
