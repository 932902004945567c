package org.holtra.service.journal.sql;

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

@Mapper
public interface IdempotencyKeyMapper {

    /** In the same order by every node, so that no two wait for each other. */
    @Insert("""
            insert into idempotency_key (inlet, key, message, received)
            select * from unnest(#{inlets}::text[], #{keys}::text[], #{ids}::uuid[], #{received}::timestamptz[])
              as n(inlet, key, message, received)
            order by inlet, key, message
            on conflict do nothing
            """)
    void insert(
            @Param("inlets") String[] inlets,
            @Param("keys") String[] keys,
            @Param("ids") UUID[] ids,
            @Param("received") Instant[] received);

    /** Of these messages, those whose key is another's. */
    @Select("""
            select n.message as id, k.message as duplicate_of
            from unnest(#{inlets}::text[], #{keys}::text[], #{ids}::uuid[]) as n(inlet, key, message)
            join idempotency_key k on k.inlet = n.inlet and k.key = n.key
            where k.message != n.message
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<MessageMapper.Duplicate> others(
            @Param("inlets") String[] inlets, @Param("keys") String[] keys, @Param("ids") UUID[] ids);

    @Delete("delete from idempotency_key where received < #{before}")
    void remove(@Param("before") Instant before);
}
