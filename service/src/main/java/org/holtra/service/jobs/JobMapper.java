package org.holtra.service.jobs;

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

@Mapper
interface JobMapper {

    String COLUMNS = """
            id, number, what, terms::text as terms, by_whom, begun, expected, done, reached, state, ended, note, undo_until,
            undone, node
            """;

    @Insert("""
            insert into job (id, what, terms, by_whom, begun, expected, state, node, undo_until)
            values (#{id}, #{what}, #{terms}::jsonb, #{by}, #{begun}, #{expected}, 'running', #{node}, #{undoUntil})
            """)
    void begin(
            @Param("id") UUID id,
            @Param("what") String what,
            @Param("terms") String terms,
            @Param("by") String by,
            @Param("begun") Instant begun,
            @Param("expected") Long expected,
            @Param("node") UUID node,
            @Param("undoUntil") Instant undoUntil);

    @Select("select " + COLUMNS + " from job where id = #{id}")
    Optional<Job> find(@Param("id") UUID id);

    /** As long as it runs and is this node's; until the end of the transaction nobody else does a step of it. */
    @Select("select " + COLUMNS + " from job where id = #{id} and state = 'running' and node = #{node} for update")
    Optional<Job> lock(@Param("id") UUID id, @Param("node") UUID node);

    @Select("select " + COLUMNS + """
             from job where #{before}::timestamptz is null or (begun, id) < (#{before}, #{id})
            order by begun desc, id desc limit #{limit}
            """)
    List<Job> list(@Param("before") Instant before, @Param("id") UUID id, @Param("limit") int limit);

    @Update("update job set done = done + #{done}, reached = #{reached}, note = #{note} where id = #{id}")
    void advance(
            @Param("id") UUID id,
            @Param("done") long done,
            @Param("reached") String reached,
            @Param("note") String note);

    @Update("""
            update job set state = #{state}, ended = #{at}, note = #{note} where id = #{id} and state = 'running'
            """)
    int end(@Param("id") UUID id, @Param("state") String state, @Param("at") Instant at, @Param("note") String note);

    @Update("update job set undone = #{at}, note = #{note} where id = #{id} and undone is null")
    int undone(@Param("id") UUID id, @Param("at") Instant at, @Param("note") String note);

    /** Those whose node is gone are this node's now. */
    @Select("""
            update job set node = #{me}
            where state = 'running' and (node is null or not exists (select 1 from node n where n.id = job.node))
            returning id
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<UUID> adopt(@Param("me") UUID me);
}
