package org.holtra.service.credentials;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface CredentialMapper {

    record Row(
            String name,
            String form,
            byte[] sealed,
            Instant changed,
            String changedBy,
            byte[] previous,
            Instant previousUntil) {}

    @Select("select name, form, sealed, changed, changed_by, previous, previous_until from credential order by name")
    List<Row> all();

    @Insert("""
            insert into credential (name, form, sealed, changed, changed_by, previous, previous_until)
            values (#{r.name}, #{r.form}, #{r.sealed}, #{r.changed}, #{r.changedBy}, #{r.previous},
                    #{r.previousUntil})
            on conflict (name) do update set form = excluded.form, sealed = excluded.sealed,
              changed = excluded.changed, changed_by = excluded.changed_by,
              previous = excluded.previous, previous_until = excluded.previous_until
            """)
    void save(@Param("r") Row row);

    /** 0 if it is no longer as it was read. */
    @Update(
            "update credential set sealed = #{r.sealed}, previous = #{r.previous} where name = #{r.name} and sealed = #{before}")
    int reseal(@Param("r") Row row, @Param("before") byte[] before);

    @Delete("delete from credential where name = #{name}")
    int remove(@Param("name") String name);
}
