package org.holtra.service.tokens;

import java.time.Instant;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface GrantLinkMapper {

    record Row(byte[] link, String credential, Instant until, byte[] verifier, Instant used) {}

    @Insert("""
            insert into grant_link (link, credential, made, made_by, until)
            values (#{link}, #{credential}, #{now}, #{by}, #{until})
            """)
    void make(
            @Param("link") byte[] link,
            @Param("credential") String credential,
            @Param("by") String by,
            @Param("now") Instant now,
            @Param("until") Instant until);

    @Select("select link, credential, until, verifier, used from grant_link where link = #{link}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Row find(@Param("link") byte[] link);

    @Select("select link, credential, until, verifier, used from grant_link where state = #{state}")
    @Options(flushCache = FlushCachePolicy.TRUE)
    Row byState(@Param("state") byte[] state);

    @Update("update grant_link set state = #{state}, verifier = #{verifier} where link = #{link} and used is null")
    int begin(@Param("link") byte[] link, @Param("state") byte[] state, @Param("verifier") byte[] verifier);

    /** 0 if it was used before: each serves once. */
    @Update("update grant_link set used = #{now}, verifier = null where state = #{state} and used is null")
    int use(@Param("state") byte[] state, @Param("now") Instant now);

    @Update("update grant_link set used = null, state = null where link = #{link}")
    int reopen(@Param("link") byte[] link);

    @Delete("delete from grant_link where until < #{before}")
    int forget(@Param("before") Instant before);
}
