package org.holtra.service.setups;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface DraftMapper {

    @Insert("""
            insert into draft (thing, name, by_whom, content, based_on, changed)
            values (#{d.thing}, #{d.name}, #{d.byWhom}, #{d.content}, #{d.basedOn}, #{d.changed})
            on conflict (thing, name, by_whom) do update
            set content = excluded.content, based_on = excluded.based_on, changed = excluded.changed
            """)
    void save(@Param("d") Draft draft);

    @Delete("delete from draft where thing = #{thing} and name = #{name} and by_whom = #{by}")
    int remove(@Param("thing") String thing, @Param("name") String name, @Param("by") String by);

    @Select("""
            select thing, name, by_whom, content, based_on, changed from draft
            where thing = #{thing} and name = #{name} order by changed desc
            """)
    List<Draft> of(@Param("thing") String thing, @Param("name") String name);

    @Select("""
            select thing, name, by_whom, '' as content, based_on, changed from draft order by changed desc
            """)
    List<Draft> all();
}
