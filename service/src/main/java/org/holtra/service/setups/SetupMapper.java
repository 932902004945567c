package org.holtra.service.setups;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
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

    @Insert("insert into lane_closed (lane, since) values (#{lane}, #{since}) on conflict (lane) do nothing")
    void laneClosed(@Param("lane") String lane, @Param("since") Instant since);

    @Select("delete from lane_closed where lane = #{lane} returning since")
    @Options(flushCache = Options.FlushCachePolicy.TRUE)
    Optional<Instant> laneOpened(@Param("lane") String lane);

    @Select("select revision, adopted, adopted_by, note, '' as yaml from setup_revision order by revision desc")
    List<SetupRevision> all();

    @Select("""
            select revision, adopted, adopted_by, note, '' as yaml from setup_revision
            where #{after}::bigint is null or revision < #{after} order by revision desc limit #{limit}
            """)
    List<SetupRevision> list(@Param("after") Long after, @Param("limit") int limit);
}
