package org.holtra.service.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface AccountMapper {

    record Account(String name, String passwordHash, Instant created) {}

    @Select("select count(*) from account")
    long count();

    @Select("select name, password_hash, created from account where name = #{name}")
    Optional<Account> find(@Param("name") String name);

    @Insert("insert into account (name, password_hash, created) values (#{a.name}, #{a.passwordHash}, #{a.created})")
    void add(@Param("a") Account account);

    @Select("select name from api_key where hash = #{hash}")
    Optional<String> keyByHash(@Param("hash") byte[] hash);

    @Update("update api_key set last_used = #{at} where name = #{name}")
    void used(@Param("name") String name, @Param("at") Instant at);

    @Insert("""
            insert into api_key (name, hash, created, created_by) values (#{name}, #{hash}, #{created}, #{by})
            on conflict (name) do nothing
            """)
    int addKey(
            @Param("name") String name,
            @Param("hash") byte[] hash,
            @Param("created") Instant created,
            @Param("by") String by);

    @Select("select name, created, created_by, last_used from api_key order by name")
    List<ApiKeys.Entry> keys();

    @Delete("delete from api_key where name = #{name}")
    int removeKey(@Param("name") String name);
}
