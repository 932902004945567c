package org.holtra.service.connections;

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
interface DiaryMapper {

    @Insert("""
            insert into diary (thing, name, at, node, line, detail)
            select * from unnest(#{things}::text[], #{names}::text[], #{at}::timestamptz[], #{nodes}::text[],
                                 #{lines}::text[], #{details}::text[])
            """)
    void insert(
            @Param("things") String[] things,
            @Param("names") String[] names,
            @Param("at") Instant[] at,
            @Param("nodes") String[] nodes,
            @Param("lines") String[] lines,
            @Param("details") String[] details);

    @Delete("""
            delete from diary where thing = #{thing} and name = #{name} and number <= (
              select number from diary where thing = #{thing} and name = #{name}
              order by number desc offset #{kept} limit 1)
            """)
    void prune(@Param("thing") String thing, @Param("name") String name, @Param("kept") int kept);

    @ConstructorArgs({
        @Arg(column = "at", javaType = Instant.class),
        @Arg(column = "node", javaType = String.class),
        @Arg(column = "line", javaType = String.class),
        @Arg(column = "detail", javaType = String.class)
    })
    @Select("""
            select at, node, line, detail from diary where thing = #{thing} and name = #{name}
            order by number desc limit #{limit}
            """)
    List<Diary.Line> of(@Param("thing") String thing, @Param("name") String name, @Param("limit") int limit);
}
