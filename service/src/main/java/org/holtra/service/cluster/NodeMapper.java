package org.holtra.service.cluster;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Who is at work on this database. All times here are the database's. */
@Mapper
interface NodeMapper {

    /** @param joins how many nodes ever joined, left or were given up */
    record Renewed(Instant now, long joins, int others) {}

    /** Counts a change of who is there; at once, whatever becomes of the transaction. */
    @Select("select nextval('node_joins')")
    @Options(flushCache = FlushCachePolicy.TRUE)
    long countChange();

    @Insert("""
            insert into node (id, name, started, lease_until)
            values (#{id}, #{name}, clock_timestamp(), clock_timestamp() + make_interval(secs => #{seconds}))
            """)
    void add(@Param("id") UUID id, @Param("name") String name, @Param("seconds") double seconds);

    /** Null if the node was given up meanwhile. */
    @Select("""
            with renewed as (
              update node set lease_until = clock_timestamp() + make_interval(secs => #{seconds}) where id = #{id}
              returning id)
            select clock_timestamp() as now, (select last_value from node_joins) as joins,
                   (select count(*) from node where id != #{id})::int as others
            from renewed
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Renewed renew(@Param("id") UUID id, @Param("seconds") double seconds);

    @Select("delete from node where lease_until < clock_timestamp() and id != #{me} returning id")
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<UUID> removeExpired(@Param("me") UUID me);

    @Select("select id, name, started, lease_until from node order by started")
    List<Node.Present> all();

    @Delete("delete from node where id = #{id}")
    void remove(@Param("id") UUID id);
}
