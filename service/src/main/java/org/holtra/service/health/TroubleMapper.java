package org.holtra.service.health;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface TroubleMapper {

    @Select("select what, name, since, text from trouble where cleared is null order by since")
    List<Trouble> open();

    /** 0 if another node was faster. */
    @Insert("""
            insert into trouble (what, name, since, text, message) values (#{t.what}, #{t.name}, #{t.since}, #{t.text},
              #{message})
            on conflict do nothing
            """)
    int raise(@Param("t") Trouble trouble, @Param("message") UUID message);

    @Update("update trouble set text = #{t.text} where what = #{t.what} and name = #{t.name} and cleared is null")
    void retell(@Param("t") Trouble trouble);

    /** 0 if another node was faster. */
    @Update("update trouble set cleared = #{now} where what = #{t.what} and name = #{t.name} and cleared is null")
    int clear(@Param("t") Trouble trouble, @Param("now") Instant now);

    @Select("select what, name, since, text from trouble where cleared is not null order by cleared desc limit 50")
    List<Trouble> past();
}
