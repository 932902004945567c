package org.holtra.service.refusals;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Arg;
import org.apache.ibatis.annotations.ConstructorArgs;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface RefusalMapper {

    /** @param fields as JSON */
    record Row(
            Instant at,
            String inlet,
            String node,
            String remote,
            String address,
            String code,
            String slip,
            String text,
            String fields) {}

    @Insert("""
            <script>
            insert into refusal (at, inlet, node, remote, address, code, slip, text, fields) values
            <foreach collection="rows" item="r" separator=",">
              (#{r.at}, #{r.inlet}, #{r.node}, #{r.remote}, #{r.address}, #{r.code}, #{r.slip}, #{r.text}, #{r.fields}::jsonb)
            </foreach>
            </script>
            """)
    void insert(@Param("rows") List<Row> rows);

    @Delete("""
            delete from refusal where inlet = #{inlet} and number <= (
              select number from refusal where inlet = #{inlet} order by number desc offset #{kept} limit 1)
            """)
    void prune(@Param("inlet") String inlet, @Param("kept") int kept);

    /** Those before a day without any are an old story. */
    @Insert("""
            insert into refusal_count (inlet, slip, count, since, last)
            values (#{inlet}, #{slip}, #{count}, #{first}, #{last})
            on conflict (inlet, slip) do update set count = refusal_count.count + excluded.count,
              since = case when refusal_count.last < excluded.since - interval '1 day' then excluded.since
                           else refusal_count.since end,
              last = greatest(refusal_count.last, excluded.last)
            """)
    void count(
            @Param("inlet") String inlet,
            @Param("slip") String slip,
            @Param("count") long count,
            @Param("first") Instant first,
            @Param("last") Instant last);

    @ConstructorArgs({
        @Arg(column = "at", javaType = Instant.class),
        @Arg(column = "inlet", javaType = String.class),
        @Arg(column = "node", javaType = String.class),
        @Arg(column = "remote", javaType = String.class),
        @Arg(column = "address", javaType = String.class),
        @Arg(column = "code", javaType = String.class),
        @Arg(column = "slip", javaType = String.class),
        @Arg(column = "text", javaType = String.class),
        @Arg(column = "fields", javaType = String.class)
    })
    @Select("""
            select at, inlet, node, remote, address, code, slip, text, fields::text as fields
            from refusal where inlet = #{inlet} order by number desc limit #{limit}
            """)
    List<Row> latest(@Param("inlet") String inlet, @Param("limit") int limit);

    @ConstructorArgs({
        @Arg(column = "inlet", javaType = String.class),
        @Arg(column = "slip", javaType = String.class),
        @Arg(column = "count", javaType = long.class),
        @Arg(column = "since", javaType = Instant.class),
        @Arg(column = "last", javaType = Instant.class)
    })
    @Select("select inlet, slip, count, since, last from refusal_count order by inlet, last desc")
    List<Refusals.Count> counts();

    @Delete("delete from refusal where at < #{before}")
    void forget(@Param("before") Instant before);

    @Delete("delete from refusal_count where last < #{before}")
    void forgetCounts(@Param("before") Instant before);
}
