package org.holtra.service.cluster;

import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Arg;
import org.apache.ibatis.annotations.ConstructorArgs;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface InletOwnerMapper {

    /** @param name of the node */
    record Owner(String inlet, UUID node, String name) {}

    @Insert("""
            insert into inlet_owner (inlet, node, since)
            select inlet, #{node}, now() from unnest(#{inlets}::text[]) as w(inlet)
            where not exists (
              select 1 from inlet_owner o join node n on n.id = o.node where o.inlet = w.inlet)
            order by inlet
            on conflict (inlet) do update set node = excluded.node, since = excluded.since
              where not exists (select 1 from node n where n.id = inlet_owner.node)
            """)
    void claim(@Param("inlets") String[] inlets, @Param("node") UUID node);

    @ConstructorArgs({
        @Arg(column = "inlet", javaType = String.class),
        @Arg(column = "node", javaType = UUID.class),
        @Arg(column = "name", javaType = String.class)
    })
    @Select("""
            select o.inlet, o.node, n.name from inlet_owner o join node n on n.id = o.node
            where o.inlet = any(#{inlets}::text[])
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Owner> owners(@Param("inlets") String[] inlets);

    @Delete("delete from inlet_owner where inlet = any(#{inlets}::text[]) and node = #{node}")
    void release(@Param("inlets") String[] inlets, @Param("node") UUID node);
}
