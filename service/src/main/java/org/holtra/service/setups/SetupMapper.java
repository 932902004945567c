package org.holtra.service.setups;

import java.util.List;
import java.util.Optional;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

@Mapper
interface SetupMapper {

    @Insert("""
            insert into setup_revision (revision, adopted, adopted_by, note, yaml)
            values (#{r.revision}, #{r.adopted}, #{r.adoptedBy}, #{r.note}, #{r.yaml})
            """)
    void add(@Param("r") SetupRevision revision);

    @Select("select revision, adopted, adopted_by, note, yaml from setup_revision where revision = #{revision}")
    Optional<SetupRevision> find(@Param("revision") int revision);

    @Select("select revision, adopted, adopted_by, note, yaml from setup_revision order by revision desc limit 1")
    Optional<SetupRevision> newest();

    @Select("select revision, adopted, adopted_by, note, '' as yaml from setup_revision order by revision desc")
    List<SetupRevision> all();
}
