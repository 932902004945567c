package org.holtra.service.introductions;

import java.time.Instant;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface IntroducerMapper {

    record Row(UUID node, String pausedBy, Instant pausedAt) {}

    /** The node's, unless another that is there has it. */
    @Insert("""
            insert into introducer (outlet, node) values (#{outlet}, #{node})
            on conflict (outlet) do update set node = excluded.node
              where introducer.node is null
                 or introducer.node <> excluded.node
                    and not exists (select 1 from node n where n.id = introducer.node)
            """)
    void claim(@Param("outlet") String outlet, @Param("node") UUID node);

    @Select("select node, paused_by, paused_at from introducer where outlet = #{outlet}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Row find(@Param("outlet") String outlet);

    /** @param by null to go on */
    @Insert("""
            insert into introducer (outlet, paused_by, paused_at) values (#{outlet}, #{by}, #{at})
            on conflict (outlet) do update set paused_by = excluded.paused_by, paused_at = excluded.paused_at
            """)
    void pause(@Param("outlet") String outlet, @Param("by") String by, @Param("at") Instant at);
}
