package org.holtra.service.tokens;

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
import org.apache.ibatis.annotations.Update;

@Mapper
interface TokenMapper {

    record Row(
            String credential,
            byte[] token,
            Instant expires,
            byte[] refresh,
            String scope,
            Instant refreshed,
            String failure,
            String reason,
            Instant nextTry) {}

    /**
     * A node's turn to ask for the next token.
     *
     * @param changed when the credential was saved that it asks with
     * @param until others wait then
     */
    record Turn(String credential, Instant changed, UUID node, Instant until) {}

    /** Null if there is none that was asked for with the credential as it was saved then. */
    @Select("""
            select credential, token, expires, refresh, scope, refreshed, failure, reason, next_try from access_token
            where credential = #{credential} and coalesce(credential_changed, #{changed}) = #{changed}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Row find(@Param("credential") String credential, @Param("changed") Instant changed);

    @Select("""
            select credential, token, expires, refresh, scope, refreshed, failure, reason, next_try
            from access_token join credential on name = credential and changed = coalesce(credential_changed, changed)
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> all();

    /** 0 if it is another's turn, or the credential was saved anew and this node has not heard of it yet. */
    @Insert("""
            insert into access_token (credential, credential_changed, node, node_until)
            select name, changed, #{t.node}, #{t.until} from credential
            where name = #{t.credential} and changed = #{t.changed}
            on conflict (credential) do update set credential_changed = excluded.credential_changed,
              node = excluded.node, node_until = excluded.node_until
              where (access_token.node_until is null or access_token.node_until < #{now})
                and coalesce(access_token.credential_changed, excluded.credential_changed) = excluded.credential_changed
            """)
    int take(@Param("t") Turn turn, @Param("now") Instant now);

    @Update("""
            update access_token set node = null, node_until = null
            where credential = #{t.credential} and node = #{t.node} and node_until = #{t.until}
            """)
    int letGo(@Param("t") Turn turn);

    /** 0 if the credential was saved anew since it was asked for. */
    @Update("""
            update access_token
            set token = #{r.token}, expires = #{r.expires}, refresh = #{r.refresh}, scope = #{r.scope},
                refreshed = #{r.refreshed}, failure = null, reason = null, next_try = null, node = null, node_until = null
            where credential = #{r.credential} and credential_changed = #{changed}
            """)
    int came(@Param("r") Row row, @Param("changed") Instant changed);

    /** 0 if it is no longer as it was read. */
    @Update("""
            update access_token set token = #{token}, refresh = #{refresh}
            where credential = #{r.credential}
              and token is not distinct from #{r.token} and refresh is not distinct from #{r.refresh}
            """)
    int reseal(@Param("r") Row row, @Param("token") byte[] token, @Param("refresh") byte[] refresh);

    @Update("""
            update access_token
            set failure = #{failure}, reason = #{reason}, next_try = #{nextTry}, node = null, node_until = null
            where credential = #{t.credential} and node = #{t.node} and node_until = #{t.until}
            """)
    int failed(
            @Param("t") Turn turn,
            @Param("failure") String failure,
            @Param("reason") String reason,
            @Param("nextTry") Instant nextTry);

    /** The destination does not take it: it is as good as over. */
    @Update("update access_token set expires = #{now} where credential = #{credential} and refreshed < #{before}")
    int refused(@Param("credential") String credential, @Param("before") Instant before, @Param("now") Instant now);

    /** What was not asked for with the credential as it is saved now. */
    @Delete("""
            delete from access_token where credential = #{credential} and not exists (
              select from credential where name = access_token.credential and changed = access_token.credential_changed)
            """)
    int forget(@Param("credential") String credential);
}
