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

    @Select("""
            select credential, token, expires, refresh, scope, refreshed, failure, reason, next_try from access_token
            where credential = #{credential}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Row find(@Param("credential") String credential);

    @Select("""
            select credential, token, expires, refresh, scope, refreshed, failure, reason, next_try from access_token
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> all();

    /** Takes it in hand to ask for the next token; 0 if another does. */
    @Insert("""
            insert into access_token (credential, node, node_until) values (#{credential}, #{node}, #{until})
            on conflict (credential) do update set node = excluded.node, node_until = excluded.node_until
              where access_token.node_until is null or access_token.node_until < #{now}
            """)
    int take(
            @Param("credential") String credential,
            @Param("node") UUID node,
            @Param("now") Instant now,
            @Param("until") Instant until);

    @Update("""
            update access_token
            set token = #{r.token}, expires = #{r.expires}, refresh = #{r.refresh}, scope = #{r.scope},
                refreshed = #{r.refreshed}, failure = null, reason = null, next_try = null, node = null, node_until = null
            where credential = #{r.credential}
            """)
    int came(@Param("r") Row row);

    @Update("""
            update access_token set token = #{token}, refresh = #{refresh} where credential = #{credential}
            """)
    int reseal(@Param("credential") String credential, @Param("token") byte[] token, @Param("refresh") byte[] refresh);

    @Update("""
            update access_token
            set failure = #{failure}, reason = #{reason}, next_try = #{nextTry}, node = null, node_until = null
            where credential = #{credential}
            """)
    int failed(
            @Param("credential") String credential,
            @Param("failure") String failure,
            @Param("reason") String reason,
            @Param("nextTry") Instant nextTry);

    /** The destination does not take it: it is as good as over. */
    @Update("update access_token set expires = #{now} where credential = #{credential} and refreshed < #{before}")
    int refused(@Param("credential") String credential, @Param("before") Instant before, @Param("now") Instant now);

    @Delete("delete from access_token where credential = #{credential}")
    int forget(@Param("credential") String credential);
}
